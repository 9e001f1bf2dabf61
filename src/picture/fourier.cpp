#include "fourier.hpp"

#include <algorithm>
#include <array>
#include <kissfft/kissfft.hh>
#include <numbers>

#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

// So many columns are transformed together: a line of the processor's cache holds four numbers.
constexpr int column_block = 16;

}  // namespace

int quick_size(int at_least) {
  // Other factors, and half of 2, go a way in kissfft that several threads cannot share.
  for (int n = std::max(4, at_least + at_least % 2);; n += 2) {
    int rest = n;
    for (const int factor : {2, 3, 5}) {
      while (rest % factor == 0) rest /= factor;
    }
    if (rest == 1) return n;
  }
}

struct RealTransform::Plans {
  explicit Plans(PixelSize size)
      : row(to_size(size.width / 2), false),
        row_back(to_size(size.width / 2), true),
        column(to_size(size.height), false),
        column_back(to_size(size.height), true) {
    for (int k = 0; k <= size.width / 2; ++k) {
      const double turn = 2.0 * std::numbers::pi * k / size.width;
      twiddle.emplace_back(std::cos(turn), std::sin(turn));
    }
  }
  kissfft<double> row;
  kissfft<double> row_back;
  kissfft<double> column;
  kissfft<double> column_back;
  std::vector<Complex> twiddle{};
};

RealTransform::RealTransform(PixelSize size) : size_(size), plans_(std::make_unique<Plans>(size)) {}
RealTransform::~RealTransform() = default;

void RealTransform::along_columns(std::vector<Complex>& data, bool back) const {
  const int all = columns();
  const kissfft<double>& plan = back ? plans_->column_back : plans_->column;
  const std::size_t height = to_size(size_.height);
  parallel_for(0, (all + column_block - 1) / column_block, [&](int block) {
    const int first = block * column_block;
    const int count = std::min(column_block, all - first);
    std::vector<Complex> in(height * column_block);
    std::vector<Complex> out(height);
    for (std::size_t y = 0; y < height; ++y) {
      const Complex* row = data.data() + y * to_size(all) + to_size(first);
      for (int k = 0; k < count; ++k) in[to_size(k) * height + y] = row[k];
    }
    for (int k = 0; k < count; ++k) {
      Complex* column = in.data() + to_size(k) * height;
      plan.transform(column, out.data());
      std::copy(out.begin(), out.end(), column);
    }
    for (std::size_t y = 0; y < height; ++y) {
      Complex* row = data.data() + y * to_size(all) + to_size(first);
      for (int k = 0; k < count; ++k) row[k] = in[to_size(k) * height + y];
    }
  });
}

std::vector<RealTransform::Complex> RealTransform::forward(
    const std::vector<std::array<int, 2>>& rows, const ReadRow& read) const {
  std::vector<Complex> data;
  forward(rows, read, data);
  return data;
}

void RealTransform::forward(const std::vector<std::array<int, 2>>& rows, const ReadRow& read,
                            std::vector<Complex>& data) const {
  const std::size_t half = to_size(size_.width / 2);
  if (data.size() != count()) {
    data.assign(count(), Complex());
  } else {
    parallel_for(0, size_.height, [&](int y) {
      const bool read_anyway = std::any_of(rows.begin(), rows.end(),
                                           [&](const auto& r) { return y >= r[0] && y < r[1]; });
      if (!read_anyway) std::fill_n(data.begin() + y * columns(), columns(), Complex());
    });
  }
  for (const auto& [from, to] : rows) {
    parallel_for(from, to, [&](int y) {
      std::vector<double> row(to_size(size_.width));
      read(y, row.data());
      Complex* out = data.data() + to_size(y) * (half + 1);
      plans_->row.transform_real(row.data(), out);
      // The highest frequency comes packed behind the lowest; both are real.
      out[half] = out[0].imag();
      out[0] = out[0].real();
    });
  }
  along_columns(data, false);
}

void RealTransform::backward(std::vector<Complex>& data, int rows, const WriteRow& write) const {
  along_columns(data, true);
  const std::size_t half = to_size(size_.width / 2);
  const double scale = 1.0 / (static_cast<double>(size_.width) * size_.height);
  parallel_for(0, rows, [&](int y) {
    const Complex* in = data.data() + to_size(y) * (half + 1);
    std::vector<Complex> packed(half);
    // Two real rows of even and odd places as one complex row of half the length (Press et al.,
    // Numerical Recipes, 3rd ed., §12.3).
    for (std::size_t k = 0; k < half; ++k) {
      const Complex even = in[k] + std::conj(in[half - k]);
      const Complex odd = (in[k] - std::conj(in[half - k])) * plans_->twiddle[k];
      packed[k] = scale * (even + Complex(0.0, 1.0) * odd);
    }
    std::vector<Complex> row(half);
    plans_->row_back.transform(packed.data(), row.data());
    write(y, reinterpret_cast<const double*>(row.data()));
  });
}

}  // namespace jolly_iris
