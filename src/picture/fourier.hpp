// Discrete Fourier transforms of real pictures, on all cores.
#pragma once

#include <complex>
#include <functional>
#include <memory>
#include <vector>

#include "jolly_iris/optics/units.hpp"

namespace jolly_iris {

/// The least size that is quick to transform: even, and of factors 2, 3 and 5 alone.
int quick_size(int at_least);

/// In double precision: beside a lamp of 10⁶, floats would leave a noise of 10⁻¹ everywhere.
class RealTransform {
 public:
  using Complex = std::complex<double>;
  using ReadRow = std::function<void(int y, double* row)>;
  using WriteRow = std::function<void(int y, const double* row)>;

  /// @param size both even, best of quick_size
  explicit RealTransform(PixelSize size);
  ~RealTransform();

  int columns() const { return size_.width / 2 + 1; }
  std::size_t count() const {
    return static_cast<std::size_t>(columns()) * static_cast<std::size_t>(size_.height);
  }
  /// Frequencies of the rows that `read` fills: those of `rows`, which are told as ranges
  /// [from, to); all others are zero. @return columns() × height, row by row
  std::vector<Complex> forward(const std::vector<std::array<int, 2>>& rows,
                               const ReadRow& read) const;
  /// The same into what is there already: new memory takes a good part of the time.
  void forward(const std::vector<std::array<int, 2>>& rows, const ReadRow& read,
               std::vector<Complex>& data) const;
  /// The way back; only the first `rows` rows are asked for.
  void backward(std::vector<Complex>& frequencies, int rows, const WriteRow& write) const;

 private:
  void along_columns(std::vector<Complex>& data, bool back) const;

  struct Plans;
  PixelSize size_;
  std::unique_ptr<Plans> plans_;
};

}  // namespace jolly_iris
