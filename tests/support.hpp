// What several tests need: a folder that goes away, the demo's files, the command line in-process.
#pragma once

#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

namespace jolly_iris::testing {

inline std::string demo(const std::string& name) { return std::string(JOLLY_IRIS_DEMO "/") + name; }

/// A fresh folder, removed at the end.
// Whether this runs under AddressSanitizer, which takes four to ten times as long.
#if defined(__SANITIZE_ADDRESS__)
inline constexpr bool sanitized = true;
#elif defined(__has_feature)
#if __has_feature(address_sanitizer)
inline constexpr bool sanitized = true;
#else
inline constexpr bool sanitized = false;
#endif
#else
inline constexpr bool sanitized = false;
#endif

/// How many cases are tried: all of them where it is quick; under the sanitizers those few that run
/// every path, since more of them are statistics of numbers that the optimised build has told.
inline int cases(int all, int few) { return sanitized ? few : all; }

class TempFolder {
 public:
  /// @param more where one test needs several
  explicit TempFolder(const std::string& more = "") {
    const auto* info = ::testing::UnitTest::GetInstance()->current_test_info();
    // What a whole suite shares is made before any of its tests is the current one.
    const std::string whose = info == nullptr
                                  ? std::string("suite")
                                  : std::string(info->test_suite_name()) + "_" + info->name();
    std::string name = "jolly_iris_" + whose + "_" + std::to_string(::getpid()) + more;
    for (char& c : name) {
      if (c == '/') c = '_';
    }
    path_ = std::filesystem::temp_directory_path() / name;
    std::filesystem::remove_all(path_);
    std::filesystem::create_directories(path_);
  }
  ~TempFolder() {
    std::error_code ignored;
    std::filesystem::remove_all(path_, ignored);
  }
  TempFolder(const TempFolder&) = delete;
  TempFolder& operator=(const TempFolder&) = delete;

  std::string operator/(const std::string& name) const { return (path_ / name).string(); }
  const std::filesystem::path& path() const { return path_; }
  std::string write(const std::string& name, const std::string& text) const {
    std::ofstream(path_ / name, std::ios::binary) << text;
    return *this / name;
  }
  /// Names of everything in the folder.
  std::size_t count() const {
    return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(path_), {}));
  }

 private:
  std::filesystem::path path_;
};

inline std::string slurp(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

/// A text with its first such part replaced; the part must be there.
inline std::string replaced(std::string text, const std::string& what, const std::string& by) {
  const auto at = text.find(what);
  if (at == std::string::npos) {
    ADD_FAILURE() << "there is no '" << what << "'";
    return text;
  }
  return text.replace(at, what.size(), by);
}

/// Whether a text holds a part; the failure shows both.
inline ::testing::AssertionResult holds(const std::string& text, const std::string& part) {
  if (text.find(part) != std::string::npos) return ::testing::AssertionSuccess();
  return ::testing::AssertionFailure() << "'" << part << "' is not in:\n" << text;
}

/// Whether it holds all of them.
inline ::testing::AssertionResult holds_all(const std::string& text,
                                            const std::vector<std::string>& parts) {
  for (const std::string& part : parts) {
    if (auto result = holds(text, part); !result) return result;
  }
  return ::testing::AssertionSuccess();
}

/// The message of the exception that `work` throws, of this type.
template <class E, class F>
std::string message_of(F&& work) {
  try {
    work();
  } catch (const E& e) {
    return e.what();
  } catch (const std::exception& e) {
    ADD_FAILURE() << "another exception: " << e.what();
    return {};
  }
  ADD_FAILURE() << "nothing was thrown";
  return {};
}

/// A shot file that needs nothing else.
inline const char* const plain_shot = R"(
[body]
gate   = "19.1 x 10.7 mm"
pixels = "1920 x 1080"

[lens]
focal   = "53 mm"
adapter = 0.76

[take]
stop = "f/2.2"
mark = "2.6 m"
)";

}  // namespace jolly_iris::testing
