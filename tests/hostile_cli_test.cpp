// What scripts, other people's files and full disks do to the command line: nothing is lost,
// nothing that was read is written over, no name steers a terminal, and no number is none.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cmath>
#include <csignal>
#include <cstdlib>
#include <filesystem>
#include <limits>
#include <nlohmann/json.hpp>
#include <set>

#include "cli_support.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace hostile_cli_test {

using namespace testing;
using Json = nlohmann::json;
using Args = std::vector<std::string>;

std::string tool() { return tool_or(JOLLY_IRIS_TOOL); }

// The command line as a process of its own, its output where `redirect` says.
int shell(const std::string& arguments) {
  const int status = std::system((tool() + " " + arguments).c_str());
  return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

std::string shot_in(const TempFolder& folder, const std::string& more = "",
                    const std::string& name = "a.shot.toml") {
  return folder.write(name,
                      "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"96 x 54\"\n[lens]\nfocal = "
                      "\"18 mm\"\n[take]\nstop = \"f/2\"\nmark = \"3 m\"\n" +
                          more);
}

// ---- output
// --------------------------------------------------------------------------------------

TEST(Output, ThatCannotBeWrittenIsNoSuccess) {
  const TempFolder folder;
  const std::string shot = demo("hero.shot.toml");
  for (const std::string form : {"", " --json", " --only focus"}) {
    const std::string said = folder / "said";
    EXPECT_EQ(shell("report " + shot + form + " > /dev/full 2> " + said), 75) << form;
    EXPECT_TRUE(holds(slurp(said), "could not be written: No space left on device"));
    EXPECT_EQ(shell("report " + shot + form + " >&- 2> " + said), 3) << form;
  }
  EXPECT_EQ(shell("--version > /dev/full 2> /dev/null"), 75);
}

// What is opened next takes the lowest number that is free.
TEST(Output, OfAClosedStreamLandsInNoFile) {
  const TempFolder folder;
  const std::string plan = folder / "plan.svg";
  (void)shell("plan " + demo("hero.shot.toml") + " -o " + plan + " >&- 2>&-");
  const std::string svg = slurp(plan);
  EXPECT_TRUE(svg.starts_with("<")) << svg.substr(0, 80);
  EXPECT_FALSE(holds(svg, "jolly-iris:"));
}

TEST(Output, OfAnErrorIsJsonWhereItIsAskedFor) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  const Ran wrong =
      run({"report", shot, "--json", "--set", "take.stop=f/0", "--set", "lens.focal=3"});
  EXPECT_EQ(wrong.code, 2);
  const Json error = Json::parse(wrong.out)["error"];
  EXPECT_EQ(error["kind"], "shot file");
  EXPECT_EQ(error["exit_code"], 2);
  EXPECT_EQ(error["mistakes"].size(), 2U);
  EXPECT_EQ(error["mistakes"][0]["place"], "--set");
  const Ran optics = run({"report", shot, "--json", "--set", "take.mark=20 mm"});
  EXPECT_EQ(optics.code, 1);
  EXPECT_EQ(Json::parse(optics.out)["error"]["key"], "take.mark");
  const Ran missing = run({"report", folder / "none.toml", "--json"});
  EXPECT_EQ(missing.code, 3);
  EXPECT_EQ(Json::parse(missing.out)["error"]["kind"], "file");
  const Ran option = run({"report", shot, "--json", "--nonsense"});
  EXPECT_EQ(option.code, 2);
  EXPECT_EQ(Json::parse(option.out)["error"]["kind"], "usage");
  // Without --json nothing but the sentence.
  EXPECT_EQ(run({"report", folder / "none.toml"}).out, "");
}

// ---- numbers
// -------------------------------------------------------------------------------------

struct Absurd {
  const char* set;
  const char* said;
};
class AbsurdNumbers : public ::testing::TestWithParam<Absurd> {};

TEST_P(AbsurdNumbers, AreRefusedWithTheirKeyAndValue) {
  const TempFolder folder;
  const Ran r = run({"report", shot_in(folder), "--set", GetParam().set});
  EXPECT_EQ(r.code, 2);
  EXPECT_EQ(r.out, "");
  const std::string set = GetParam().set;
  EXPECT_TRUE(holds(r.err, set.substr(0, set.find('=')))) << r.err;
  EXPECT_TRUE(holds(r.err, set.substr(set.find('=') + 1))) << r.err;
  EXPECT_TRUE(holds(r.err, GetParam().said)) << r.err;
}

INSTANTIATE_TEST_SUITE_P(
    All, AbsurdNumbers,
    ::testing::Values(Absurd{"take.mark=1e300 km", "lengths are from"},
                      Absurd{"lens.shift_up=1e22 mm", "out of reach"},
                      Absurd{"lens.shift_up=20 m", "lenses move from -10000 to 10000 mm"},
                      Absurd{"lens.focal=1e-18 mm", "lengths are from"},
                      Absurd{"lens.focal=0.01 mm", "no focal length"},
                      Absurd{"take.stop=f/1e-20", "stops are from"},
                      Absurd{"take.stop=f/0.001", "stops are from"},
                      Absurd{"scene.back=1e300 m", "lengths are from"},
                      Absurd{"unit=1e-308 mm", "lengths are from"},
                      Absurd{"lens.adapter=1e300", "0.01 to 100"},
                      Absurd{"lens.squeeze=1e300", "a squeeze from 1 to 10"},
                      Absurd{"lens.iris.rotation=1e300 deg", "from -36000 to 36000 deg"},
                      Absurd{"scene.scale=1e12", "from 1e-06 to 1000000"},
                      Absurd{"take.fps=1e-300", "frame rate"}, Absurd{"take.iso=1e300", "ISO"},
                      Absurd{"body.gate=1e-5 x 1e-5 mm", "is no gate"},
                      Absurd{"lens.close_up=1e300 dpt", "from -1000 to 1000 dioptres"}));

TEST(Options, ThatAreNoNumbersAreRefused) {
  const std::string shot = demo("hero.shot.toml");
  for (const std::string value : {"inf", "nan", "1e300", "0x10"}) {
    EXPECT_EQ(run({"report", shot, "--frames", "all", "--step", value}).code, 2) << value;
    EXPECT_EQ(run({"report", shot, "--frame", value}).code, 2) << value;
  }
  for (const std::string frames : {"1e17-1e17", "0-1e300", "nan-nan", "-inf-0"}) {
    EXPECT_EQ(run({"report", shot, "--frames", frames}).code, 2) << frames;
  }
  EXPECT_EQ(run({"report", shot, "--frame", "1e17"}).code, 2);
}

// ---- files
// ---------------------------------------------------------------------------------------

TEST(Inputs, AreNeverWrittenOver) {
  const TempFolder folder;
  const std::string shot = shot_in(folder, "[lens.iris]\nblades = 7\n");
  const std::string before = slurp(shot);
  const Ran table = run({"bokeh", shot, "--table", shot, "-o", folder / "b.png"});
  EXPECT_EQ(table.code, 3) << table.out;
  EXPECT_TRUE(holds(table.err, "this run")) << table.err;
  EXPECT_EQ(slurp(shot), before);

  const std::string plate = folder / "plate.jpg";
  std::filesystem::copy_file(demo("plate.jpg"), plate);
  const std::string picture = slurp(plate);
  // By what it is, not by its name.
  std::filesystem::create_symlink(plate, folder / "link.jpg");
  std::filesystem::create_hard_link(plate, folder / "other.jpg");
  for (const std::string name : {"plate.jpg", "link.jpg", "other.jpg"}) {
    EXPECT_EQ(run({"start", plate, "--replace", "-o", folder / name}).code, 3) << name;
    EXPECT_EQ(slurp(plate), picture);
  }
}

std::set<std::string> files_in(const std::string& folder) {
  std::set<std::string> names;
  for (const auto& entry : std::filesystem::directory_iterator(folder)) {
    names.insert(entry.path().filename().string());
  }
  return names;
}

// Before any work: nothing is written, not even the first of two.
struct Collision {
  const char* name;
  std::vector<std::string> args;  // FOLDER/ stands for the folder
  std::string sentence;           // what is said
};

class Collisions : public ::testing::TestWithParam<Collision> {};

TEST_P(Collisions, AreRefusedBeforeAnythingIsWritten) {
  const TempFolder folder;
  (void)shot_in(folder, "[lens.iris]\nblades = 7\n[plate]\nfile = \"plate.jpg\"\n");
  std::filesystem::copy_file(demo("plate.jpg"), folder / "plate.jpg");
  std::filesystem::copy_file(demo("pinhole.exr"), folder / "sharp.exr");
  std::filesystem::create_symlink(folder / "sharp.exr", folder / "link.exr");
  const std::set<std::string> before = files_in(folder / "");
  std::vector<std::string> args = GetParam().args;
  for (std::string& a : args) {
    if (a.starts_with("FOLDER/")) a = folder / a.substr(7);
  }
  const Ran r = run(args);
  EXPECT_EQ(r.code, 3) << r.out;
  EXPECT_TRUE(holds(r.err, GetParam().sentence)) << r.err;
  EXPECT_EQ(files_in(folder / ""), before);
}

const std::string shot_there = "FOLDER/a.shot.toml";
const std::string sharp_there = "FOLDER/sharp.exr";
const std::string twice = "two outputs of this run have that name";
const std::string both_ways = "is to write that file and reads it";
const std::string read_before = "this run read that file";

INSTANTIATE_TEST_SUITE_P(
    All, Collisions,
    ::testing::Values(
        Collision{
            "plan", {"plan", shot_there, "-o", "FOLDER/p.svg", "-o", "FOLDER/./p.svg"}, twice},
        Collision{"bokeh",
                  {"bokeh", shot_there, "--kernel", "FOLDER/k.exr", "--mask", "FOLDER/k.exr"},
                  twice},
        Collision{"bokeh_table", {"bokeh", shot_there, "--table", shot_there}, both_ways},
        Collision{"compare",
                  {"compare", shot_there, sharp_there, "--sheet", "FOLDER/a.png", "--where",
                   "FOLDER/a.png"},
                  twice},
        Collision{"compare_input",
                  {"compare", shot_there, sharp_there, "--difference", sharp_there},
                  both_ways},
        Collision{"defocus", {"defocus", shot_there, sharp_there, "-o", sharp_there}, both_ways},
        Collision{"defocus_link",
                  {"defocus", shot_there, sharp_there, "-o", "FOLDER/link.exr"},
                  both_ways},
        Collision{"defocus_blur",
                  {"defocus", shot_there, sharp_there, "-o", "FOLDER/d.exr", "--save-blur",
                   "FOLDER/d.exr"},
                  twice},
        Collision{
            "expose", {"expose", shot_there, sharp_there, "--apply", "-o", sharp_there}, both_ways},
        Collision{"measure",
                  {"measure", shot_there, "--discs", "--overlay", "FOLDER/none/o.png"},
                  "there is no folder"},
        Collision{"page",
                  {"page", shot_there, "--with", sharp_there, "-o", "FOLDER/none/p.html"},
                  "there is no folder"},
        Collision{"start",
                  {"start", "FOLDER/plate.jpg", "--replace", "-o", "FOLDER/plate.jpg"},
                  read_before}),
    [](const auto& one) { return std::string(one.param.name); });

TEST(Outputs, FollowLinksKeepPermissionsAndReplaceNoDevice) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  const std::string real = folder.write("real.svg", "old");
  ::chmod(real.c_str(), 0640);
  std::filesystem::create_symlink(real, folder / "link.svg");
  ASSERT_EQ(run({"plan", shot, "-o", folder / "link.svg"}).code, 0);
  EXPECT_TRUE(std::filesystem::is_symlink(folder / "link.svg"));
  EXPECT_NE(slurp(real), "old");
  struct stat status {};
  ::stat(real.c_str(), &status);
  EXPECT_EQ(status.st_mode & 07777, 0640U);
  std::filesystem::create_symlink(folder / "nothing", folder / "dangling.svg");
  EXPECT_EQ(run({"plan", shot, "-o", folder / "dangling.svg"}).code, 3);
  // A name as long as names can be.
  const std::string longest = folder / (std::string(251, 'n') + ".svg");
  EXPECT_EQ(run({"plan", shot, "-o", longest}).code, 0);
  ASSERT_EQ(::mkfifo((folder / "fifo.svg").c_str(), 0600), 0);
  EXPECT_EQ(run({"plan", shot, "-o", folder / "fifo.svg"}).code, 3);
  EXPECT_FALSE(std::filesystem::is_regular_file(folder / "fifo.svg"));
}

TEST(Inputs, ThatAreNoPlainFilesAreRefused) {
  const TempFolder folder;
  const std::string fifo = folder / "fifo";
  ASSERT_EQ(::mkfifo(fifo.c_str(), 0600), 0);
  for (const std::string& name : {fifo, std::string("/dev/zero")}) {
    EXPECT_EQ(run({"report", name}).code, 3);
    EXPECT_EQ(run({"start", name, "-o", folder / "s.shot.toml"}).code, 3);
    EXPECT_EQ(run({"expose", shot_in(folder), name}).code, 3);
  }
}

TEST(PartFiles, OfProcessesThatAreGoneAreRemoved) {
  const TempFolder folder;
  const pid_t child = ::fork();
  if (child == 0) {
    const std::string bytes(64 << 20, 'x');
    for (;;) write_whole_file(folder / "o.bin", bytes);
  }
  while (folder.count() == 0) ::usleep(1000);
  ::kill(child, SIGKILL);
  int status = 0;
  ::waitpid(child, &status, 0);
  // As if it had been killed half way through, whatever it was at.
  std::size_t parts = 0;
  for (const auto& entry : std::filesystem::directory_iterator(folder / "")) {
    parts += entry.path().extension() == ".part" ? 1U : 0U;
  }
  ASSERT_EQ(shell("plan " + shot_in(folder) + " -o " + (folder / "p.svg") + " > /dev/null"), 0);
  for (const auto& entry : std::filesystem::directory_iterator(folder / "")) {
    EXPECT_NE(entry.path().extension(), ".part") << parts;
  }
}

// ---- names
// ---------------------------------------------------------------------------------------

TEST(Names, SteerNoTerminal) {
  const TempFolder folder;
  const std::string evil = "boat\\u001b]0;title\\u0007\\u001b[2J\\u202e";
  const std::string shot = shot_in(folder, "[[subject]]\nname = \"" + evil + "\"\nat = \"3 m\"\n");
  const Ran r = run({"report", shot});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(r.out.find('\x1b'), std::string::npos);
  EXPECT_EQ(r.out.find('\a'), std::string::npos);
  EXPECT_TRUE(holds(r.out, "\\x1b]0;title")) << r.out;
  EXPECT_TRUE(holds(r.out, "\\u202e"));
  const Ran missing = run({"report", folder / "a\x1b[2J\xff\xc3.toml"});
  EXPECT_EQ(missing.err.find('\x1b'), std::string::npos);
  EXPECT_TRUE(holds(missing.err, "a\\x1b[2J\\xff\\xc3.toml")) << missing.err;
}

TEST(Names, EndNoScriptOfAPage) {
  const TempFolder folder;
  const std::string shot = shot_in(folder, "[[subject]]\nname = \"<!--<script>\"\nat = \"3 m\"\n");
  ASSERT_EQ(run({"page", shot, "-o", folder / "p.html"}).code, 0);
  const std::string html = slurp(folder / "p.html");
  EXPECT_FALSE(holds(html, "<!--<script>"));
  EXPECT_EQ(data_of(html)["subjects"][0]["name"], "<!--<script>");
}

TEST(Names, WriteNoKeysIntoAShotFile) {
  const TempFolder folder;
  const std::string plate = folder / "a\n[take]\nstop = \"f9\"\n.jpg";
  std::filesystem::copy_file(demo("plate.jpg"), plate);
  ASSERT_EQ(run({"start", plate, "-o", folder / "s.shot.toml"}).code, 0);
  const std::string text = slurp(folder / "s.shot.toml");
  EXPECT_EQ(text.find("\nstop = \"f9\""), std::string::npos) << text;
  EXPECT_TRUE(holds(text, "file = \"a\\u000A[take]\\u000A")) << text;
}

TEST(Contents, OfFilesThatAreNoTablesAreNotTold) {
  const TempFolder folder;
  const std::string secret = folder.write("secret", "root:hunter2\nmore\n");
  const Ran r = run({"report", shot_in(folder), "--set", "scene.track=" + secret});
  EXPECT_NE(r.code, 0);
  EXPECT_FALSE(holds(r.err, "hunter2")) << r.err;
}

// ---- files of a few bytes that ask for much
// ------------------------------------------------------

std::string with_scene(const TempFolder& folder, const std::string& gltf) {
  (void)folder.write("a.gltf", gltf);
  return shot_in(folder, "[scene]\nfile = \"a.gltf\"\n");
}

const std::string gltf_begin =
    R"({"asset":{"version":"2.0"},"cameras":[{"type":"perspective","perspective":{"yfov":0.6,"znear":0.1}}],)";

std::string many(const std::string& text, std::size_t times) {
  std::string out;
  for (std::size_t i = 0; i < times; ++i) out += text;
  return out;
}

TEST(Nesting, IsToldBeforeAReaderRecurses) {
  const TempFolder folder;
  const std::string gltf =
      with_scene(folder, gltf_begin + "\"extras\":" + many("[", 20000) + many("]", 20000) + "}");
  const Ran deep = run({"report", gltf});
  EXPECT_EQ(deep.code, 3);
  EXPECT_TRUE(holds(deep.err, "more than 64 deep")) << deep.err;
  const std::string dotted = many("a.", 100000) + "a";
  const Ran keys = run({"report", shot_in(folder, dotted + " = 1\n")});
  EXPECT_EQ(keys.code, 2);
  EXPECT_TRUE(holds(keys.err, "more than 64 parts")) << keys.err.substr(0, 300);
  EXPECT_EQ(run({"report", shot_in(folder), "--set", dotted + "=1"}).code, 2);
  EXPECT_EQ(run({"report", shot_in(folder), "--set", "lens.focal=" + many("[", 20000)}).code, 2);
}

TEST(Sizes, ThatAFileCannotHoldAreRefusedBeforeMemoryIsTaken) {
  const TempFolder folder;
  const std::string accessor = gltf_begin +
                               R"("nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":)"
                               R"({"POSITION":0}}]}],"scenes":[{"nodes":[0]}],"accessors":[)"
                               R"({"componentType":5126,"type":"VEC3","count":)";
  for (const std::string count : {"100000000", "4611686018427387904"}) {
    const Ran r = run({"report", with_scene(folder, accessor + count + "}]}")});
    EXPECT_EQ(r.code, 3);
    EXPECT_TRUE(holds(r.err, "accessor 0 has " + count + " elements")) << r.err;
  }
  // 10,000 x 10,000 pixels in 69 bytes.
  using namespace std::string_literals;
  const std::string png =
      "\211\120\116\107\015\012\032\012\000\000\000\015\111\110\104\122\000\000\047\020\000\000\047"
      "\020\010\002\000\000\000\065\054\365\160"
      "\000\000\000\014\111\104\101\124\170\234\143\140\240\075\000\000\000\144\000\001\206\144\074"
      "\065"
      "\000\000\000\000\111\105\116\104\256\102\140\202"s;
  (void)folder.write("a.png", png);
  const Ran r = run({"expose", shot_in(folder), folder / "a.png"});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "10000 x 10000 pixels, which its")) << r.err;
}

TEST(Sizes, OfWorkAreBoundByTheMemoryThatMayBeUsed) {
  const TempFolder folder;
  const std::string scene = with_scene(
      folder, gltf_begin + R"("nodes":[{"name":"c","camera":0}],"scenes":[{"nodes":[0]}]})");
  const Ran large =
      run({"trace", scene, "--set", "body.pixels=1000000 x 1000000", "-o", folder / "a.exr"});
  EXPECT_EQ(large.code, 3);
  EXPECT_TRUE(holds(large.err, "1000000 x 1000000 pixels takes about")) << large.err;
  EXPECT_TRUE(holds(large.err, "--memory")) << large.err;
  // What the work takes besides the picture is asked for before it begins.
  const Ran traced = run({"trace", scene, "--set", "body.pixels=1600 x 900", "--memory", "64 MB",
                          "-o", folder / "a.exr"});
  EXPECT_EQ(traced.code, 3);
  EXPECT_TRUE(holds(traced.err, "tracing a picture of 1600 x 900 pixels takes about 65 MB"));
  const Ran blurred = run({"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "--memory",
                           "80 MB", "-o", folder / "a.exr"});
  EXPECT_EQ(blurred.code, 3);
  EXPECT_TRUE(holds(blurred.err, "blurring a picture of 1280 x 720 pixels takes about 97 MB"));
  const Ran bent = run({"desqueeze", demo("hero.shot.toml"), demo("pinhole.exr"), "--set",
                        "lens.squeeze=2", "--memory", "64 MB", "-o", folder / "a.exr"});
  EXPECT_EQ(bent.code, 3);
  EXPECT_TRUE(holds(bent.err, "stretching a picture of 1280 x 720 pixels to 2560 x 720 takes"));
  EXPECT_FALSE(std::filesystem::exists(folder / "a.exr"));
  EXPECT_EQ(run({"report", scene, "--memory", "much"}).code, 2);
  EXPECT_EQ(run({"report", scene, "--memory", "1 MB"}).code, 2);
  EXPECT_EQ(run({"report", scene, "--memory", "8 GB"}).code, 0);
}

TEST(Sizes, OfTheAddressSpaceEndWithASentence) {
  if (sanitized) return;  // which takes terabytes of it by itself
  const TempFolder folder;
  for (int mb = 100; mb <= 700; mb += 25) {
    const std::string said = folder / "said";
    const std::string line =
        fmt::format("sh -c 'ulimit -v {}; exec {} start {} --replace -o {} > /dev/null 2> {}'",
                    1024 * mb, tool(), demo("plate.jpg"), folder / "a.shot.toml", said);
    const int status = std::system(line.c_str());
    ASSERT_TRUE(WIFEXITED(status)) << mb << " MB";
    EXPECT_TRUE(WEXITSTATUS(status) == 0 || WEXITSTATUS(status) == 3)
        << mb << " MB: " << slurp(said);
    if (WEXITSTATUS(status) == 3) {
      EXPECT_TRUE(holds(slurp(said), "jolly-iris: ")) << mb << " MB";
    }
  }
}

TEST(Sizes, OfLargeWorkAreToldOnce) {
  std::vector<std::string> heard;
  {
    const MemoryTold told([&](const std::string& sentence) { heard.push_back(sentence); });
    require_memory(1.9e9, "a little");
    for (int i = 0; i < 3; ++i) require_memory(2.5e9, "blurring a picture");
  }
  require_memory(2.6e9, "what nobody hears");
  EXPECT_EQ(heard, std::vector<std::string>{"blurring a picture takes about 2.5 GB of memory"});
}

TEST(Buffers, ThatArePipesAreNotWaitedFor) {
  const TempFolder folder;
  ASSERT_EQ(::mkfifo((folder / "pipe.bin").c_str(), 0600), 0);
  const Ran r =
      run({"report",
           with_scene(folder, gltf_begin + R"("buffers":[{"uri":"pipe.bin","byteLength":12}]})")});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "a pipe")) << r.err;
}

TEST(Pictures, OfOtherKindsAreRefusedByWhatTheyHold) {
  const TempFolder folder;
  const std::string gif = folder.write("a.png", "GIF89a" + many("x", 60));
  const Ran r = run({"expose", shot_in(folder), gif});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "no EXR, PNG, JPEG, TIFF or DPX")) << r.err;
}

TEST(Nodes, OfOneNameAreToldApart) {
  const TempFolder folder;
  const std::string shot = with_scene(
      folder,
      gltf_begin +
          R"("nodes":[{"name":"c","camera":0},{"name":"quay","children":[3],"translation":[0,0,-2]},)"
          R"({"name":"boat","children":[4,5],"translation":[0,0,-3]},{"name":"lamp"},)"
          R"({"name":"lamp"},{"name":"lamp"}],"scenes":[{"nodes":[0,1,2]}]})");
  const Ran r = run({"report", shot});
  EXPECT_EQ(r.code, 0) << r.err;
  for (const char* name : {"quay/lamp", "boat/lamp", "boat/lamp (2)"}) {
    EXPECT_TRUE(holds(r.out, name)) << r.out;
  }
  EXPECT_NE(run({"report", shot, "--set", "focus=lamp"}).code, 0);
}

// More would take minutes where labels, bounds or mistakes cost their number squared.
TEST(Many, SubjectsNodesAndMistakesAreDoneWith) {
  const TempFolder folder;
  std::string subjects;
  const int crowded = testing::cases(10000, 1000);
  for (int i = 0; i < crowded; ++i) {
    subjects += "[[subject]]\nname = \"s" + std::to_string(i) + "\"\nat = \"" +
                std::to_string(1.0 + 0.001 * i) + " m\"\n";
  }
  const std::string crowd = shot_in(folder, subjects, "crowd.shot.toml");
  EXPECT_EQ(run({"report", crowd}).code, 0);
  EXPECT_EQ(run({"plan", crowd, "-o", folder / "crowd.svg"}).code, 0);
  std::string nodes = R"({"name":"c","camera":0,"children":[1]})";
  for (int i = 1; i < 20000; ++i) {
    nodes += R"(,{"name":"n)" + std::to_string(i) + R"(","translation":[0,0,-0.001])" +
             (i + 1 < 20000 ? ",\"children\":[" + std::to_string(i + 1) + "]" : "") + "}";
  }
  const std::string chain =
      with_scene(folder, gltf_begin + "\"nodes\":[" + nodes + R"(],"scenes":[{"nodes":[0]}]})");
  EXPECT_EQ(run({"report", chain}).code, 0);
  EXPECT_EQ(run({"plan", chain, "-o", folder / "chain.svg"}).code, 0);
  // What hides all others of its place is drawn alone.
  EXPECT_LT(std::filesystem::file_size(folder / "chain.svg"), 4'000'000U);
  std::string wrong;
  for (int i = 0; i < 5000; ++i) wrong += "wrong" + std::to_string(i) + " = 1\n";
  const Ran r = run({"report", shot_in(folder, "[lens.iris]\n" + wrong)});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "… and 4970 more")) << r.err.substr(0, 200);
}

TEST(Many, DrawnEdgesAreRefusedRatherThanFittedForMinutes) {
  const TempFolder folder;
  std::string edges;
  for (int i = 0; i < 1000; ++i) {
    edges += "[[plate.line]]\nname = \"e" + std::to_string(i) +
             "\"\nruns = \"vertical\"\npoints = [[" + std::to_string(i % 90) + ", 1], [" +
             std::to_string(i % 90) + ", 25], [" + std::to_string(i % 90) + ", 50]]\n";
  }
  const Ran r = run({"measure", shot_in(folder, edges)});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "1000 edges of 3000 points")) << r.err;
}

// ---- pixels
// --------------------------------------------------------------------------------------

// Every second pixel of a picture, with NaN and infinity left in it.
void write_broken(const std::string& name, const Frame& whole) {
  Frame frame{Picture({whole.colour.width() / 2, whole.colour.height() / 2}), {}};
  for (int y = 0; y < frame.colour.height(); ++y) {
    for (int x = 0; x < frame.colour.width(); ++x) {
      frame.colour.at(x, y) = whole.colour.at(2 * x, 2 * y);
      if (!whole.has_depth()) continue;
      frame.depth.push_back(
          whole.depth[static_cast<std::size_t>(2 * y * whole.colour.width() + 2 * x)]);
    }
  }
  constexpr float nan = std::numeric_limits<float>::quiet_NaN();
  frame.colour.at(40, 30)[1] = nan;
  frame.colour.at(41, 30)[3] = nan;
  frame.colour.at(60, 30)[0] = std::numeric_limits<float>::infinity();
  if (frame.has_depth()) frame.depth[50] = nan;
  write_whole_file(name, picture_bytes(".exr", frame));
}

void expect_numbers(const std::string& file) {
  const Picture p = read_picture(file, PictureRead{{}, {}, {}, true}).colour;
  for (const Rgba& pixel : p.pixels()) {
    for (const float v : pixel) ASSERT_TRUE(std::isfinite(v)) << file;
  }
}

// The regatta with a plate that is broken so.
std::string broken_regatta(const TempFolder& folder) {
  for (const auto& entry : std::filesystem::directory_iterator(demo(""))) {
    const std::string ending = entry.path().extension().string();
    if (ending != ".toml" && ending != ".gltf" && ending != ".bin") continue;
    std::filesystem::copy_file(entry.path(), folder.path() / entry.path().filename());
  }
  write_broken(folder / "plate.exr", read_picture(demo("plate.jpg")));
  std::string text = slurp(folder / "hero.shot.toml");
  const auto at = text.find("plate.jpg");
  return folder.write("hero.shot.toml", text.replace(at, 9, "plate.exr"));
}

// How many of the notes and warnings of a result, or of an error, hold a text.
int notes_of(const Ran& r, const std::string& text) {
  const Json all = Json::parse(r.out, nullptr, false);
  int n = 0;
  for (const char* list : {"notes", "warnings"}) {
    if (!all.is_object() || !all.contains(list)) continue;
    for (const Json& one : all[list]) n += holds(one.get<std::string>(), text) ? 1 : 0;
  }
  return n;
}

TEST(Pixels, ThatAreNoNumbersAreMendedAndSaidByEveryVerb) {
  const TempFolder folder;
  const std::string shot = broken_regatta(folder);
  write_broken(folder / "cg.exr", read_picture(demo("pinhole.exr")));
  const std::string bent = "lens.distortion.k1=0.03";
  const std::string out = folder / "out.exr";
  for (Args args :
       {Args{"expose", shot, folder / "cg.exr", "--stops", "1", "--apply", "-o", out},
        Args{"expose", shot, folder / "cg.exr", "--as-plate", "--region", "300,200,300,300"},
        Args{"measure", shot, "--discs"}, Args{"match", shot},
        Args{"compare", shot, folder / "cg.exr", "--difference", out},
        Args{"page", shot, "-o", folder / "p.html"},
        Args{"defocus", shot, folder / "cg.exr", "-o", out},
        Args{"undistort", shot, folder / "cg.exr", "--set", bent, "-o", out},
        Args{"redistort", shot, folder / "cg.exr", "--set", bent, "-o", out},
        Args{"squeeze", shot, folder / "cg.exr", "--set", "lens.squeeze=2", "-o", out},
        Args{"desqueeze", shot, folder / "cg.exr", "--set", "lens.squeeze=2", "-o", out}}) {
    std::filesystem::remove(out);
    args.emplace_back("--json");
    const Ran r = run(args);
    EXPECT_EQ(r.code, 0) << args[0] << ": " << r.err;
    EXPECT_GE(notes_of(r, "pixels are no numbers (NaN or infinity), the first at"), 1) << args[0];
    if (std::filesystem::exists(out)) expect_numbers(out);
  }
}

TEST(Notes, OutliveAnAnswerThatThereIsNot) {
  const TempFolder folder;
  const Ran r = run({"match", broken_regatta(folder), "--box", "0,0,40,40", "--json"});
  EXPECT_EQ(r.code, 1) << r.err;
  EXPECT_EQ(notes_of(r, "pixels are no numbers"), 1) << r.out;
  EXPECT_TRUE(holds(r.err, "note: ")) << r.err;
}

TEST(Pixels, AreNotWrittenWhereTheyAreNoNumbers) {
  const TempFolder folder;
  Frame frame{Picture({8, 4}, {1, 1, 1, 1}), {}};
  frame.colour.at(3, 2)[0] = std::numeric_limits<float>::infinity();
  EXPECT_TRUE(holds(message_of<PictureError>([&] { write_picture(folder / "a.exr", frame); }),
                    "not written: its pixel 3, 2 would be inf"));
  EXPECT_EQ(folder.count(), 0U);
}

}  // namespace hostile_cli_test
}  // namespace jolly_iris
