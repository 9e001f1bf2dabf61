// The tool as a process of its own: exit codes, a full disk, --watch.
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <cstdio>
#include <thread>

#include "disk/disk.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace process_test {

using namespace std::chrono_literals;
using testing::demo;
using testing::holds;
using testing::plain_shot;
using testing::slurp;
using testing::TempFolder;

struct Finished {
  int code = 0;
  std::string message{};  // out and err together
};

Finished shell(const std::string& command) {
  Finished f;
  FILE* pipe = ::popen((command + " 2>&1").c_str(), "r");
  char buffer[4096];
  for (std::size_t n = 0; (n = std::fread(buffer, 1, sizeof buffer, pipe)) > 0;)
    f.message.append(buffer, n);
  const int status = ::pclose(pipe);
  f.code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  return f;
}

const std::string tool = JOLLY_IRIS_TOOL;

TEST(Process, ExitsWithItsCodes) {
  EXPECT_EQ(shell(tool + " report " + demo("hero.shot.toml")).code, 0);
  EXPECT_EQ(shell(tool + " report " + demo("hero.shot.toml") +
                  " --set take.mark=0.1m --set focus.mark=0.1m")
                .code,
            1);
  EXPECT_EQ(shell(tool + " report " + demo("hero.shot.toml") + " --nonsense").code, 2);
  EXPECT_EQ(shell(tool + " report nowhere").code, 3);
}

// On a machine without a desktop, too.
TEST(Process, LiveWithoutABrowserSaysItsAddressAndEndsWithCtrlC) {
  const Finished f =
      shell("timeout --preserve-status -s INT " + std::to_string(testing::cases(6, 20)) +
            " env PATH=/nowhere " + tool + " live " + demo("hero.shot.toml") + " " +
            demo("pinhole.exr") + " --open");
  EXPECT_TRUE(holds(f.message, "http://127.0.0.1:"));
  EXPECT_TRUE(holds(f.message, "there is no xdg-open here; open the address"));
  EXPECT_EQ(f.code, 128 + SIGINT) << f.message;
}

// A limit on file sizes fails a write in the middle just as a full disk does; the shell ignores the
// signal, so that write() itself reports it.
TEST(Process, FullDiskLeavesNoFileAndTheOldOneWhole) {
  const TempFolder folder;
  const std::string out = folder / "o.exr";
  folder.write("o.exr", "what was there before");
  for (const char* name : {"o.exr", "n.png", "n.jpg", "n.tif"}) {
    const Finished f =
        shell("bash -c \"trap '' XFSZ; ulimit -f 1; exec " + tool + " defocus " +
              demo("hero.shot.toml") + " " + demo("pinhole.exr") + " -o " + (folder / name) + "\"");
    EXPECT_EQ(f.code, 3) << f.message;
    EXPECT_TRUE(holds(f.message, std::string(name) + ": cannot write it: File too large"));
  }
  for (const std::string& rest :
       {"squeeze " + demo("oval.shot.toml") + " " + demo("pinhole.exr") + " -o " +
            (folder / "s.exr"),
        "bokeh " + demo("oval.shot.toml") + " -o " + (folder / "b.png"),
        "bokeh " + demo("oval.shot.toml") + " --kernel " + (folder / "k.exr"),
        "bokeh " + demo("oval.shot.toml") + " --table " + (folder / "t.json"),
        "defocus " + demo("hero.shot.toml") + " " + demo("pinhole.exr") + " --save-blur " +
            (folder / "d.exr") + " -o " + (folder / "e.exr")}) {
    const Finished f =
        shell("bash -c \"trap '' XFSZ; ulimit -f 1; exec " + tool + " " + rest + "\"");
    EXPECT_EQ(f.code, 3) << rest << f.message;
    EXPECT_TRUE(holds(f.message, "cannot write it: File too large"));
  }
  EXPECT_EQ(slurp(out), "what was there before");
  EXPECT_EQ(folder.count(), 1U);
}

// Stopped in the middle of writing: what was begun is taken away, what was there before stays.
TEST(Process, CtrlCLeavesNoHalfFile) {
  for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
    const TempFolder folder(std::to_string(signal));
    const std::string file = folder.write("o.bin", "what was there before");
    const pid_t child = ::fork();
    if (child == 0) {
      ::signal(signal, SIG_DFL);  // the tests themselves may run under nohup
      leave_nothing_when_stopped();
      const std::string bytes(100 << 20, 'x');
      for (;;) write_whole_file(file, bytes);
    }
    const auto writes = [&] { return folder.count() == 2; };  // the file, and what is beside it
    for (int i = 0; i < 20000 && !writes(); ++i) std::this_thread::sleep_for(1ms);
    EXPECT_TRUE(writes()) << "the test was not there in time";
    ::kill(child, signal);
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_TRUE(WIFSIGNALED(status) && WTERMSIG(status) == signal);
    EXPECT_EQ(folder.count(), 1U) << "a half file is left beside";
    const std::string now = slurp(file);
    EXPECT_TRUE(now == "what was there before" || now.size() == 100U << 20) << now.size();
  }
}

// A program that was told to outlive its terminal does.
TEST(Process, WhatIsIgnoredStaysIgnored) {
  const pid_t child = ::fork();
  if (child == 0) {
    ::signal(SIGHUP, SIG_IGN);
    leave_nothing_when_stopped();
    ::raise(SIGHUP);
    ::_exit(7);
  }
  int status = 0;
  ::waitpid(child, &status, 0);
  EXPECT_TRUE(WIFEXITED(status) && WEXITSTATUS(status) == 7);
}

// A sequence that is stopped keeps the frames it finished, whole, and nothing else.
TEST(Process, AStoppedSequenceKeepsWholeFrames) {
  const TempFolder folder;
  const std::string log = folder / "log";
  const pid_t child = ::fork();
  if (child == 0) {
    ::signal(SIGINT, SIG_DFL);  // what runs in a shell's background ignores it
    if (std::freopen(log.c_str(), "w", stdout) == nullptr) ::_exit(9);
    if (std::freopen("/dev/null", "w", stderr) == nullptr) ::_exit(9);
    ::execl(tool.c_str(), tool.c_str(), "defocus", demo("hero.shot.toml").c_str(),
            demo("pinhole.exr").c_str(), "--frames", "1-500", "-o", (folder / "o.####.exr").c_str(),
            nullptr);
    ::_exit(9);
  }
  for (int i = 0; i < 30000 && folder.count() < 4; ++i) std::this_thread::sleep_for(1ms);
  ::kill(child, SIGINT);
  int status = 0;
  ::waitpid(child, &status, 0);
  EXPECT_TRUE(WIFSIGNALED(status));
  std::size_t frames = 0;
  for (const auto& entry : std::filesystem::directory_iterator(folder.path())) {
    const std::string name = entry.path().filename().string();
    if (name == "log") continue;
    EXPECT_TRUE(name.starts_with("o.")) << name << " is left";
    EXPECT_NO_THROW((void)read_picture(entry.path())) << name;
    ++frames;
  }
  EXPECT_GE(frames, 2U);
}

// Starts the tool with its output in a file; the test looks at that file until something is there.
class Watched {
 public:
  Watched(const std::string& shot, const std::string& log) : log_(log) {
    pid_ = ::fork();
    if (pid_ == 0) {
      if (std::freopen(log.c_str(), "w", stdout) == nullptr) ::_exit(9);
      if (std::freopen("/dev/null", "w", stderr) == nullptr) ::_exit(9);
      ::execl(tool.c_str(), tool.c_str(), "report", shot.c_str(), "--watch", nullptr);
      ::_exit(9);
    }
  }
  ~Watched() {
    ::kill(pid_, SIGKILL);
    ::waitpid(pid_, nullptr, 0);
  }
  Watched(const Watched&) = delete;
  Watched& operator=(const Watched&) = delete;

  bool says(const std::string& part) const {
    for (int i = 0; i < 300; ++i) {
      if (slurp(log_).find(part) != std::string::npos) return true;
      std::this_thread::sleep_for(100ms);
    }
    return false;
  }

 private:
  std::string log_;
  pid_t pid_ = -1;
};

TEST(Process, WatchReportsAgainOnEverySaveAndSurvivesMistakes) {
  const TempFolder folder;
  folder.write("show.body.toml", "gate = \"19.1 x 10.7 mm\"\npixels = \"1920 x 1080\"\n");
  std::string text = plain_shot;
  const auto body = text.find("gate");
  text.replace(body, text.find("[lens]") - body, "file = \"show.body.toml\"\n");
  const std::string shot = folder.write("a.shot.toml", text);
  const Watched watched(shot, folder / "log");
  ASSERT_TRUE(watched.says("41.136 mm"));
  ASSERT_TRUE(watched.says("watching 2 files"));
  folder.write("a.shot.toml", "this is not a shot file");
  std::this_thread::sleep_for(500ms);
  text.replace(text.find("53 mm"), 5, "85 mm");
  folder.write("a.shot.toml", text);
  EXPECT_TRUE(watched.says("66.")) << slurp(folder / "log");  // 64.60 mm at infinity, 66.… focused
  folder.write("show.body.toml", "gate = \"35 x 20 mm\"\npixels = \"1920 x 1080\"\n");
  EXPECT_TRUE(watched.says("35.000 x 20.000 mm"));
}

}  // namespace process_test
}  // namespace jolly_iris
