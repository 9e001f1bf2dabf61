# Installs what is missing of Debian's packages. Sourced by demo.sh and test.sh, from the project's
# folder; a second run finds everything there and touches nothing.

jolly_iris_packages=(
  g++ cmake ninja-build ccache
  libeigen3-dev libfmt-dev libtbb-dev libembree-dev libceres-dev libcairo2-dev pkg-config
  libopenimageio-dev openimageio-tools libopencolorio-dev
  libcpp-httplib-dev libkissfft-dev
  libtomlplusplus-dev libpugixml-dev nlohmann-json3-dev libtinygltf-dev libcli11-dev
  fonts-dejavu-core
  libgtest-dev librapidcheck-dev libbenchmark-dev
)

# What only the tests need: a browser for the page, a compiler that fuzzes, analysis, the
# Python module with what checks it.
if [ "${jolly_iris_for:-}" = tests ]; then
  jolly_iris_packages+=(openexr exiv2 doxygen chromium chromium-driver clang-16 libclang-rt-16-dev
    clang-format clang-tidy-16 cppcheck binutils
    python3 python3-dev pybind11-dev python3-pip python3-numpy python3-pytest
    python3-matplotlib mypy)
fi

# What only packages need: the manual, the control files, a look at what comes out.
if [ "${jolly_iris_for:-}" = packages ]; then
  jolly_iris_packages+=(help2man dpkg-dev fakeroot lintian python3 python3-dev pybind11-dev)
fi

jolly_iris_missing=()
for package in "${jolly_iris_packages[@]}"; do
  dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' ||
    jolly_iris_missing+=("$package")
done

if [ ${#jolly_iris_missing[@]} -gt 0 ]; then
  echo "Installing ${#jolly_iris_missing[@]} packages: ${jolly_iris_missing[*]}"
  as_root=()
  [ "$(id -u)" -eq 0 ] || as_root=(sudo)
  "${as_root[@]}" apt-get update -qq
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq --no-install-recommends \
    "${jolly_iris_missing[@]}" > /dev/null
fi

# A checker of glTF by others. Where npm cannot bring it, its test is left out and says so.
if [ "${jolly_iris_for:-}" = tests ] && [ ! -e build/npm/node_modules/gltf-validator/package.json ]; then
  command -v npm > /dev/null || { DEBIAN_FRONTEND=noninteractive ${as_root[@]+"${as_root[@]}"} apt-get install -y -qq \
    --no-install-recommends nodejs npm > /dev/null || true; }
  npm install --silent --no-audit --no-fund --prefix build/npm gltf-validator@2.0.0-dev.3.10 > /dev/null 2>&1 ||
    echo "gltf-validator could not be had: glTF is not checked by it"
fi
