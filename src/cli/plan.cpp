#include "jolly_iris/plan.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "output.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

void plan(const PlanOptions& options, const Streams& io, std::vector<std::string>& files) {
  const std::string usual = stem_of(options.shot.shot) + (options.side ? ".side.png" : ".plan.png");
  const std::vector<std::string> names = options.out.empty() ? std::vector{usual} : options.out;
  for (const std::string& name : names) (void)is_svg(name);
  LoadedShot loaded = load(options.shot, files);
  Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  const Plan plan = plan_of(loaded.shot, loaded.now, scene, loaded.answer, options.side);
  std::string text = tried_line(loaded.shot);
  const PlanLayout layout = layout_of(plan);
  for (const std::string& name : names) {
    write_whole_file(name, is_svg(name) ? plan_svg(plan) : plan_png(plan));
    text += fmt::format("{:<28} {} x {}, the set from {}\n", name, layout.width, layout.height,
                        options.side ? "the side" : "above");
  }
  say(options.shot.form, io, written_json(names, {}, &loaded.shot), text);
}

}  // namespace jolly_iris::cli
