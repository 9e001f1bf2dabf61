// Which Jolly Iris this is. Versions with the same two first numbers go together: what is compiled
// with one runs with another.
#pragma once

#define JOLLY_IRIS_VERSION_MAJOR 0
#define JOLLY_IRIS_VERSION_MINOR 1
#define JOLLY_IRIS_VERSION_PATCH 0
#define JOLLY_IRIS_VERSION "0.1.0"
