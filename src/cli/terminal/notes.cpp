#include "cli/terminal/notes.hpp"

#include <algorithm>
#include <ostream>

namespace jolly_iris::cli {

std::vector<std::string> Notes::told() const {
  const std::scoped_lock lock(mutex_);
  return told_;
}

void Notes::clear() {
  const std::scoped_lock lock(mutex_);
  told_.clear();
}

void Notes::tell(const char* kind, const std::string& sentence, const std::string& besides) {
  const std::scoped_lock lock(mutex_);
  if (std::find(told_.begin(), told_.end(), sentence) != told_.end()) return;
  told_.push_back(sentence);
  err_ << kind << sentence << besides << '\n' << std::flush;
}

}  // namespace jolly_iris::cli
