#include "cli/parse/option_set.hpp"

#include <CLI/CLI.hpp>

#include <charconv>

#include "cli/parse/completion.hpp"
#include "cli/parse/parse.hpp"
#include "cli/verbs/list.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/optics/range.hpp"
#include "jolly_iris/version.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris::cli {

OptionSet::Option& OptionSet::Option::within(double min, double max) {
  option_->check(CLI::Range(min, max));
  return *this;
}

OptionSet::Option& OptionSet::Option::required() {
  option_->required();
  return *this;
}

OptionSet::Option& OptionSet::Option::under(const std::string& heading) {
  option_->group(heading);
  return *this;
}

OptionSet::Option OptionSet::flag(const std::string& name, bool& into, const std::string& help) {
  return Option(*verb_.add_flag(name, into, help));
}

OptionSet::Option OptionSet::value(const std::string& name, std::string& into,
                                   const std::string& help, const char* kind) {
  return Option(*verb_.add_option(name, into, help)->type_name(kind));
}

namespace {

// A number that is one, and no larger than anything that is measured.
std::string no_number(const std::string& text) {
  double value = 0.0;
  const char* begin = text.data() + (text.starts_with('+') ? 1 : 0);
  const auto [end, error] = std::from_chars(begin, text.data() + text.size(), value);
  const bool good = error == std::errc{} && end == text.data() + text.size();
  return good && range::entry.holds(value)
             ? ""
             : "'" + text + "' is not a number " + words_of(range::entry);
}

}  // namespace

OptionSet::Option OptionSet::value(const std::string& name, double& into, const std::string& help,
                                   const char* kind) {
  return Option(*verb_.add_option(name, into, help)->type_name(kind)->check(no_number));
}

OptionSet::Option OptionSet::value(const std::string& name, int& into, const std::string& help,
                                   const char* kind) {
  return Option(*verb_.add_option(name, into, help)->type_name(kind));
}

OptionSet::Option OptionSet::value(const std::string& name, std::optional<double>& into,
                                   const std::string& help, const char* kind) {
  return Option(*verb_.add_option(name, into, help)->type_name(kind)->check(no_number));
}

OptionSet::Option OptionSet::repeatable(const std::string& name, std::vector<std::string>& into,
                                        const std::string& help, const char* kind) {
  return Option(
      *verb_.add_option(name, into, help)->type_name(kind)->take_all()->allow_extra_args(false));
}

OptionSet::Option OptionSet::several(const std::string& name, std::vector<std::string>& into,
                                     const std::string& help, const char* kind) {
  return Option(*verb_.add_option(name, into, help)->type_name(kind));
}

void OptionSet::example(const std::string& command) {
  verb_.footer("Example (on the demo data):\n  jolly-iris " + command);
}

namespace {

// A person who mistypes a verb gets the nearest one.
void refuse_unknown(const std::string& typed) {
  std::vector<std::string> names;
  for (const VerbEntry* v : all_verbs()) {
    if (typed == v->name) return;
    names.emplace_back(v->name);
  }
  if (typed.starts_with("-")) return;
  throw UsageError("there is no verb '" + typed + "'." + did_you_mean(typed, names));
}

}  // namespace

Parsed parse(const std::vector<std::string>& args) {
  CLI::App app{"Jolly Iris: the virtual camera equal to the real one.", "jolly-iris"};
  app.require_subcommand(1);
  const std::string version = std::string("jolly-iris ") + JOLLY_IRIS_VERSION;
  app.set_version_flag("--version", version);
  app.footer(
      "Start with: jolly-iris report demo/regatta/hero.shot.toml\n"
      "Each verb has its own --help. Tab completes after: source <(jolly-iris --completion bash)");
  if (!args.empty() && args[0] == "--completion") {
    return {nullptr, completion_script(args.size() > 1 ? args[1] : ""), "", 0};
  }
  if (!args.empty()) refuse_unknown(args[0]);
  Parsed parsed;
  for (const VerbEntry* entry : all_verbs()) {
    CLI::App* verb = app.add_subcommand(entry->name, entry->help);
    if (args.empty() || args[0] != entry->name) continue;
    parsed.verb = entry->make();
    OptionSet options(*verb);
    parsed.verb->add_options(options);
    options.value("--memory", parsed.memory,
                  "how much memory may be used, e.g. \"8 GB\" [3/4 of this machine's]", "SIZE");
  }
  if (args.empty()) return {nullptr, app.help(), "", 2};
  try {
    app.parse(std::vector<std::string>(args.rbegin(), args.rend()));  // CLI11 wants them reversed
  } catch (const CLI::CallForVersion&) {
    return {nullptr, version + "\n", "", 0};
  } catch (const CLI::Success&) {
    const auto chosen = app.get_subcommands();
    return {nullptr, chosen.empty() ? app.help() : chosen.front()->help("jolly-iris"), "", 0};
  } catch (const CLI::ParseError& e) {
    const auto chosen = app.get_subcommands();
    const std::string verb = chosen.empty() ? "" : " " + chosen.front()->get_name();
    throw UsageError(std::string(e.what()) + "\nSee: jolly-iris" + verb + " --help");
  }
  if (!parsed.memory.empty()) {
    try {
      set_memory_limit(parse_memory(parsed.memory));
    } catch (const UsageError& e) {
      throw UsageError(std::string("--memory: ") + e.what());
    }
  }
  parsed.verb->check();
  return parsed;
}

}  // namespace jolly_iris::cli
