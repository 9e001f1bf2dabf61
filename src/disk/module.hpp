// Parts that are loaded when they are first needed: libraries that take long to load (picture
// formats, fitting, drawing) would else be paid for by everything that does without them.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The entry of a module that lies in jolly_iris/ beside these libraries, wherever they were
/// installed. Modules stay loaded.
/// @param file "libjolly_iris_….so"; `entry` the name of its only function, `const void* entry()`
/// @throws FileError saying what cannot be loaded, and why
const void* module_entry(const std::string& file, const char* entry);

}  // namespace jolly_iris
