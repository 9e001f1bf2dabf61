// What a shared library of ours lets others see: namespaces that are opened with this. All else
// stays inside.
#pragma once

#define JOLLY_IRIS_EXPORT __attribute__((visibility("default")))
