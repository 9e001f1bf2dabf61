#!/usr/bin/env bash
# The manual as the tool tells it, a page a verb (help2man), and completion for bash and zsh.
#
#   scripts/make_manual.sh TOOL VERSION FOLDER     FOLDER gains man1/*.1.gz, bash/jolly-iris, zsh/_jolly-iris
set -euo pipefail
tool=$1 version=$2 folder=$3
mkdir -p "$folder/man1" "$folder/bash" "$folder/zsh"

page() {  # page NAME DESCRIPTION COMMAND…
  local name=$1 what=$2
  shift 2
  help2man --no-info --section 1 --name "$what" --version-string "$version" --source "Jolly Iris $version" \
    --manual "Jolly Iris" --no-discard-stderr "$*" |
    sed "s|^jolly-iris ${name#jolly-iris-} .. |$name \\\\- |; s|^\.TH .*|.TH ${name^^} 1 \"\" \"Jolly Iris $version\" \"Jolly Iris\"|" |
    gzip -9n > "$folder/man1/$name.1.gz"
}

page jolly-iris "makes a virtual camera equal to a real one" "$tool"
"$tool" --help | sed -n '/^Subcommands:/,/^$/s/^  \([a-z]\+\) \+\(.*\)/\1\t\2/p' |
  while IFS=$'\t' read -r verb what; do page "jolly-iris-$verb" "$what" "$tool $verb"; done
"$tool" --completion bash > "$folder/bash/jolly-iris"
"$tool" --completion zsh > "$folder/zsh/_jolly-iris"
