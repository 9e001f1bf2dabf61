// The options of one verb: what a person may type, into which value it goes, and how it is
// explained. What reads the arguments stands behind this, since its headers take long to compile.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace jolly_iris::cli {

class OptionSet {
 public:
  explicit OptionSet(CLI::App& verb) : verb_(verb) {}

  /// One option, to say more of it.
  class Option {
   public:
    explicit Option(CLI::Option& option) : option_(&option) {}
    /// Numbers from so much to so much.
    Option& within(double min, double max);
    Option& required();
    /// Under which heading of the help it stands.
    Option& under(const std::string& heading);

   private:
    CLI::Option* option_;
  };

  /// "--json".
  Option flag(const std::string& name, bool& into, const std::string& help);
  /// "--at", or an argument without a name, "SHOT". @param kind what stands for the value in the
  /// help
  Option value(const std::string& name, std::string& into, const std::string& help,
               const char* kind);
  Option value(const std::string& name, double& into, const std::string& help, const char* kind);
  Option value(const std::string& name, int& into, const std::string& help, const char* kind);
  Option value(const std::string& name, std::optional<double>& into, const std::string& help,
               const char* kind);
  /// An option that may be given several times, a value each.
  Option repeatable(const std::string& name, std::vector<std::string>& into,
                    const std::string& help, const char* kind);
  /// An argument without a name, of which there may be several.
  Option several(const std::string& name, std::vector<std::string>& into, const std::string& help,
                 const char* kind);
  /// A command that runs on the demo data, without the program's name.
  void example(const std::string& command);

 private:
  CLI::App& verb_;
};

}  // namespace jolly_iris::cli
