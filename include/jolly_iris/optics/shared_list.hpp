// Values that copies have in common until one of them is changed.
#pragma once

#include <cstddef>
#include <memory>
#include <utility>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A list that costs nothing to copy: copies read one list, from as many threads as there are.
/// Changing one of them leaves the others as they are, and copies the list where it is shared.
template <class T>
class SharedList {
 public:
  SharedList() = default;
  SharedList(std::vector<T> values)  // NOLINT(google-explicit-constructor): a list like any other
      : values_(std::make_shared<std::vector<T>>(std::move(values))) {}

  std::size_t size() const { return values_ ? values_->size() : 0; }
  bool empty() const { return size() == 0; }
  const T& operator[](std::size_t i) const { return (*values_)[i]; }
  const T* begin() const { return values_ ? values_->data() : nullptr; }
  const T* end() const { return begin() + size(); }

  void push_back(T value) { edit().push_back(std::move(value)); }
  /// To change it; no copy may be made or changed meanwhile.
  std::vector<T>& edit() {
    if (!values_) {
      values_ = std::make_shared<std::vector<T>>();
    } else if (values_.use_count() > 1) {
      values_ = std::make_shared<std::vector<T>>(*values_);
    }
    return *values_;
  }

 private:
  std::shared_ptr<std::vector<T>> values_{};
};

}  // namespace jolly_iris
