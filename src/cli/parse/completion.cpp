#include "cli/parse/completion.hpp"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include "cli/verbs/list.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::cli {

namespace {

constexpr const char* script_head =
    R"sh(# Tab completion of jolly-iris. To have it now:  source <(jolly-iris --completion bash)
# in every shell: put this into ~/.local/share/bash-completion/completions/jolly-iris

# Keys that a shot file says: its sections and what stands in them.
_jolly_iris_keys() {
  awk '/^[[:space:]]*\[[^[]/ { gsub(/[][[:space:]]|#.*/, ""); section = $0 "." }
       /^[[:space:]]*\[\[/ { section = "-" }
       /^[[:space:]]*[a-z_]+[[:space:]]*=/ { if (section != "-") { sub(/^[[:space:]]*/, "")
         sub(/[[:space:]]*=.*/, ""); print section $0 "=" } }' "$1" 2>/dev/null
}

_jolly_iris_names() {
  jolly-iris report "$1" --json 2>/dev/null | sed -n 's/^ *"name": "\(.*\)",*$/\1/p'
}

_jolly_iris() {
  local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD-1]} verb=${COMP_WORDS[1]}
  local shot= i options files= IFS=$'\n'
  COMPREPLY=()
  # "=" is a word of its own to bash.
  [ "$word" = "=" ] && word=
  for i in "${COMP_WORDS[@]:2}"; do [[ $i == *.toml && -f $i ]] && { shot=$i; break; }; done
  if [ "$COMP_CWORD" = 1 ]; then
    COMPREPLY=($(compgen -W "$_jolly_iris_verbs" -- "$word"))
    return
  fi
  if [ "$before" = --set ] && [ -n "$shot" ]; then
    COMPREPLY=($(compgen -W "$(_jolly_iris_keys "$shot")" -- "$word"))
    compopt -o nospace 2>/dev/null
    return
  fi
  if [[ $before == "=" || $before == focus.on ]] && [[ " ${COMP_WORDS[*]} " == *focus.on* ]] && [ -n "$shot" ]; then
    COMPREPLY=($(compgen -W "$(_jolly_iris_names "$shot")" -- "$word"))
    return
  fi
  case $verb in
)sh";

constexpr const char* script_tail = R"sh(  esac
  if [[ $word == -* ]]; then
    COMPREPLY=($(compgen -W "$options" -- "$word"))
  elif [[ $before != -* ]] || [[ $'\n'$files$'\n' == *$'\n'$before$'\n'* ]] ||
       [[ $'\n'$options$'\n' != *$'\n'$before$'\n'* ]]; then
    compopt -o filenames 2>/dev/null
    COMPREPLY=($(compgen -f -- "$word"))
  fi
}
complete -F _jolly_iris jolly-iris
)sh";

// A list in a script: one a line, in quotes that leave it as it is.
std::string quoted(const std::vector<std::string>& names) {
  std::string out = "$'";
  for (const std::string& n : names) out += (out.size() > 2 ? "\\n" : "") + n;
  return out + "'";
}

}  // namespace

std::string completion_script(const std::string& shell) {
  if (shell != "bash" && shell != "zsh") {
    throw UsageError(
        fmt::format("--completion is for bash or zsh, not for '{}'; write e.g. "
                    "jolly-iris --completion bash",
                    shell));
  }
  std::vector<std::string> verbs;
  std::string cases;
  for (const VerbEntry* entry : all_verbs()) {
    verbs.emplace_back(entry->name);
    CLI::App app;
    OptionSet options(app);
    const std::unique_ptr<Verb> verb = entry->make();
    verb->add_options(options);
    std::vector<std::string> names{"--memory"};
    std::vector<std::string> files;  // those that take one
    for (const CLI::Option* o : app.get_options()) {
      for (const std::string& name : o->get_lnames()) {
        names.push_back("--" + name);
        const bool takes =
            o->get_type_name().starts_with("FILE") || o->get_type_name().starts_with("SHOT");
        // After a flag something else begins.
        if (takes || o->get_items_expected() == 0) files.push_back("--" + name);
      }
      for (const std::string& name : o->get_snames()) {
        names.push_back("-" + name);
        files.push_back("-" + name);
      }
    }
    cases +=
        fmt::format("    {}) options={} files={} ;;\n", entry->name, quoted(names), quoted(files));
  }
  std::string out;
  if (shell == "zsh") out = "autoload -U +X bashcompinit && bashcompinit\n";
  return out + fmt::format("_jolly_iris_verbs={}\n", quoted(verbs)) + script_head + cases +
         script_tail;
}

}  // namespace jolly_iris::cli
