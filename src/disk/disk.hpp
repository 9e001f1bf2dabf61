// Whole files in and out. A written file is complete or absent: the bytes go to a file beside it,
// are flushed to the disk, and only then take the name.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// All bytes of a file. @throws FileError that says why (missing, a folder or another special file,
/// no permission)
std::string read_whole_file(const std::filesystem::path& path);

/// The same of a file that this program made and may make again: no input that InputsKept keeps.
std::string read_own_file(const std::filesystem::path& path);

/// Writes bytes under a name, atomically. A link is followed, and a file that was there keeps its
/// permissions. What an earlier run of this machine was killed over is removed from the folder.
/// @throws TransientError on a full disk and the like (may_pass), FileError for a missing folder, a
/// name that is no plain file's …; then neither the file nor a leftover beside it exists, and an
/// older file keeps its contents.
void write_whole_file(const std::filesystem::path& path, std::string_view bytes);

/// The same for a file that is read to be changed: neither an input nor another output.
void rewrite_whole_file(const std::filesystem::path& path, std::string_view bytes);

/// Whether what errno says may pass by itself (a full disk, a stale handle, too many open files),
/// so that trying again later makes sense.
bool may_pass(int error);

/// Refuses whatever is no plain file: a folder, a pipe, a device. @throws FileError
void require_plain_file(const std::filesystem::path& path);

/// Says that a file is being read, to InputsKept; for readers that open files themselves.
void note_input(const std::filesystem::path& path);

/// Says that a name is going to be written, so that long work does not end in nothing: what
/// write_whole_file would refuse is refused at once, and while InputsKept lives, so are a second
/// claim of it and reading it later. @throws FileError
void claim_output(const std::filesystem::path& path);

/// While one lives, write_whole_file refuses to write over a file that was read since, or to write
/// one file twice: by what they are, not by their names. For programs, one run each; libraries
/// leave that to whom they serve.
class InputsKept {
 public:
  InputsKept();
  ~InputsKept();
  InputsKept(const InputsKept&) = delete;
  InputsKept& operator=(const InputsKept&) = delete;
};

/// From now on, what is being written is removed before the program ends by a signal that can be
/// caught (SIGINT, SIGHUP, SIGTERM, SIGQUIT, SIGUSR1, SIGUSR2), and a file that outgrows a limit is
/// an error like a full disk (SIGXFSZ is ignored). For programs, not for libraries: it sets their
/// handlers.
void leave_nothing_when_stopped();

/// Opens what a program was started without (standard input, output, errors), so that no file that
/// it opens takes their place. Writing to what was closed goes on failing.
void keep_standard_streams();

}  // namespace jolly_iris
