#include "channels.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <initializer_list>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::picture_files {

namespace {

std::string lower(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return text;
}

bool is_one_of(const std::string& name, std::initializer_list<const char*> names) {
  return std::any_of(names.begin(), names.end(), [&](const char* n) { return name == n; });
}

// Channels of one part whose names have the same words before their last dot.
struct ChannelLayer {
  std::string prefix{};
  std::string label{};  // what people call it by
  int part = 0;
  ChannelPlace r{}, g{}, b{}, a{}, grey{}, z{}, v{};
  ChannelPlace first{}, second{};  // of vectors: x and y, or u and v
  std::vector<std::string> others{};

  bool colour() const { return r.any() || (grey.any() && !is_depth()); }
  bool vectors() const { return !colour() && first.any() && second.any(); }
  bool is_depth() const { return is_one_of(lower(last_word(label)), {"depth", "z"}); }

 private:
  static std::string last_word(const std::string& text) {
    const auto dot = text.rfind('.');
    return dot == std::string::npos ? text : text.substr(dot + 1);
  }
};

std::vector<ChannelLayer> layers_of(const std::vector<PartHeader>& parts) {
  std::vector<ChannelLayer> layers;
  for (std::size_t p = 0; p < parts.size(); ++p) {
    for (std::size_t c = 0; c < parts[p].channels.size(); ++c) {
      const std::string& name = parts[p].channels[c];
      const auto dot = name.rfind('.');
      const std::string prefix = dot == std::string::npos ? "" : name.substr(0, dot);
      const int part = static_cast<int>(p);
      auto layer = std::find_if(layers.begin(), layers.end(), [&](const ChannelLayer& l) {
        return l.part == part && l.prefix == prefix;
      });
      if (layer == layers.end()) {
        ChannelLayer fresh;
        fresh.prefix = prefix;
        fresh.part = part;
        // A part's own name counts where its channels have none, and there is more than one part.
        fresh.label = prefix.empty() && parts.size() > 1 ? parts[p].name : prefix;
        layers.push_back(fresh);
        layer = layers.end() - 1;
      }
      const ChannelPlace place{part, static_cast<int>(c)};
      const std::string last = lower(dot == std::string::npos ? name : name.substr(dot + 1));
      if (is_one_of(last, {"r", "red"})) {
        layer->r = place;
      } else if (is_one_of(last, {"g", "green"})) {
        layer->g = place;
      } else if (is_one_of(last, {"b", "blue"})) {
        layer->b = place;
      } else if (is_one_of(last, {"a", "alpha"})) {
        layer->a = place;
      } else if (last == "z") {
        layer->z = place;
      } else if (is_one_of(last, {"y", "i"})) {
        layer->grey = place;
        layer->second = place;
      } else if (last == "v") {
        layer->v = place;
        layer->second = place;
      } else {
        if (is_one_of(last, {"x", "u"})) layer->first = place;
        layer->others.push_back(name);
      }
    }
  }
  // Vectors are called x, y, z or u, v: three of them are no depth, and a y is no grey.
  for (ChannelLayer& l : layers) {
    const bool has_x = std::any_of(l.others.begin(), l.others.end(), [](const std::string& n) {
      const std::string last = lower(n.substr(n.rfind('.') + 1));
      return last == "x";
    });
    if (!has_x) continue;
    for (ChannelPlace* place : {&l.grey, &l.z}) {
      if (place->any()) {
        l.others.push_back(parts[static_cast<std::size_t>(place->part)]
                               .channels[static_cast<std::size_t>(place->index)]);
      }
      *place = {};
    }
  }
  return layers;
}

std::string called(const ChannelLayer& l) { return l.label.empty() ? "R, G, B" : l.label; }

std::string list_of(const std::vector<const ChannelLayer*>& layers) {
  std::string text;
  for (const ChannelLayer* l : layers) text += (text.empty() ? "" : ", ") + called(*l);
  return text;
}

const ChannelLayer* asked_for(const std::vector<ChannelLayer>& layers,
                              const std::vector<const ChannelLayer*>& colours,
                              const std::string& layer, const std::string& path) {
  std::vector<const ChannelLayer*> found;
  for (const ChannelLayer& l : layers) {
    const bool has = (l.colour() && !l.is_depth()) || l.vectors();
    if (has && lower(l.label) == lower(layer)) found.push_back(&l);
  }
  if (found.size() == 1) return found.front();
  throw UsageError(
      fmt::format("{}: {} called '{}'; its layers of colour: {}", path,
                  found.empty() ? "has no layer of colour" : "has several parts with a layer",
                  layer, colours.empty() ? "none" : list_of(colours)));
}

const ChannelLayer* colour_of(const std::vector<const ChannelLayer*>& colours,
                              const std::string& path, std::vector<std::string>& notes) {
  if (colours.empty()) return nullptr;
  std::vector<const ChannelLayer*> plain;
  for (const ChannelLayer* l : colours) {
    if (l->prefix.empty()) plain.push_back(l);
  }
  if (plain.size() == 1) return plain.front();
  const std::vector<const ChannelLayer*>& could_be = plain.empty() ? colours : plain;
  if (could_be.size() > 1) {
    throw UsageError(
        fmt::format("{}: has several layers of colour ({}): which one is meant? Name "
                    "it as a layer",
                    path, list_of(could_be)));
  }
  notes.push_back(fmt::format("{}: its colour is the layer '{}', the only one there is", path,
                              called(*could_be.front())));
  return could_be.front();
}

// Z of the colour's own layer, then what is called depth in its part, then in others.
ChannelPlace depth_of(const std::vector<ChannelLayer>& layers, const ChannelLayer* colour,
                      const std::vector<PartHeader>& parts, const std::string& path,
                      std::vector<std::string>& notes) {
  if (colour != nullptr && colour->z.any()) return colour->z;
  struct Found {
    ChannelPlace place{};
    int rank = 0;
  };
  std::vector<Found> found;
  for (const ChannelLayer& l : layers) {
    const bool same_part = colour == nullptr || l.part == colour->part;
    const ChannelPlace place = l.z.any()       ? l.z
                               : !l.is_depth() ? ChannelPlace{}
                               : l.v.any()     ? l.v
                               : l.grey.any()  ? l.grey
                               : l.r.any()     ? l.r
                                               : ChannelPlace{};
    if (!place.any()) continue;
    // "Z" by itself before "depth.Z" before another layer's.
    const int rank = (same_part ? 0 : 10) + (l.prefix.empty() ? 0 : l.is_depth() ? 1 : 2);
    found.push_back({place, rank});
  }
  if (found.empty()) return {};
  const auto best = std::min_element(
      found.begin(), found.end(), [](const Found& a, const Found& b) { return a.rank < b.rank; });
  const auto as_good = std::count_if(found.begin(), found.end(),
                                     [&](const Found& f) { return f.rank == best->rank; });
  const PartHeader& part = parts[static_cast<std::size_t>(best->place.part)];
  const std::string& name = part.channels[static_cast<std::size_t>(best->place.index)];
  const bool plain = best->rank == 0;
  if (!plain) {
    notes.push_back(fmt::format(
        "{}: its depth is the channel {}{}{}", path, name,
        parts.size() > 1
            ? fmt::format(" of part {}", part.name.empty() ? fmt::format("{}", best->place.part + 1)
                                                           : "'" + part.name + "'")
            : "",
        as_good > 1 ? fmt::format(", the first of {} that could be it", as_good) : ""));
  }
  return best->place;
}

}  // namespace

ChosenChannels choose_channels(const std::vector<PartHeader>& parts, const std::string& layer,
                               const std::string& path) {
  std::vector<PartHeader> flat = parts;
  bool deep = false;
  for (PartHeader& p : flat) {
    if (!p.deep) continue;
    deep = true;
    p.channels.clear();
  }
  const std::vector<ChannelLayer> layers = layers_of(flat);
  std::vector<const ChannelLayer*> colours;
  for (const ChannelLayer& l : layers) {
    if (l.colour() && !l.is_depth()) colours.push_back(&l);
  }
  ChosenChannels out;
  const ChannelLayer* colour =
      layer.empty() ? colour_of(colours, path, out.notes) : asked_for(layers, colours, layer, path);
  out.z = depth_of(layers, colour, flat, path, out.notes);
  if (colour == nullptr && !out.z.any()) {
    if (deep) {
      throw FileError(path +
                      ": is a deep picture (many samples a pixel), which is not read; flatten it, "
                      "with its depth as Z");
    }
    std::string names;
    for (const PartHeader& p : flat) {
      for (const std::string& c : p.channels) names += (names.empty() ? "" : ", ") + c;
    }
    throw FileError(
        fmt::format("{}: has no colour channels R, G, B (its channels: {})", path, names));
  }
  std::string unused;
  for (const ChannelLayer& l : layers) {
    for (const std::string& name : l.others) unused += (unused.empty() ? "" : ", ") + name;
  }
  if (!unused.empty()) out.notes.push_back(fmt::format("{}: not used: {}", path, unused));
  if (colour == nullptr) return out;
  if (colour->vectors()) {
    out.r = colour->first;
    out.g = out.b = colour->second;
    return out;
  }
  out.r = colour->r.any() ? colour->r : colour->grey;
  out.g = colour->g;
  out.b = colour->b;
  out.a = colour->a;
  if (!out.g.any() && !out.b.any()) out.g = out.b = out.r;  // grey
  return out;
}

}  // namespace jolly_iris::picture_files
