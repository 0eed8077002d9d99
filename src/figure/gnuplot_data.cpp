#include "gnuplot_data.hpp"

#include "tanzen/base/readable.hpp"

#include "contours.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace tanzen {
namespace {

/// One kind of layer after the other, as rows of numbers.
class DataWriter {
 public:
  DataWriter(fmt::memory_buffer& text, double ground) : text_(text), ground_(ground) {}

  void operator()(const std::string& name, const LineLayer& line) { points(name, line.x, line.y, line.z); }
  void operator()(const std::string& name, const PointLayer& layer) { points(name, layer.x, layer.y, layer.z); }

  void points(const std::string& name, const std::vector<double>& x, const std::vector<double>& y,
              const std::vector<double>& z) {
    add("{} << EOD\n", name);
    for (std::size_t i = 0; i < x.size(); ++i) {
      const bool is_there = std::isfinite(x[i]) && std::isfinite(y[i]) && (z.empty() || std::isfinite(z[i]));
      if (is_there && !z.empty())
        add("{} {} {}\n", x[i], y[i], z[i]);
      else if (is_there)
        add("{} {}\n", x[i], y[i]);
      else // a blank line breaks a line; in space one alone begins the next row of a net
        text_.append(std::string_view(z.empty() ? "\n" : "\n\n"));
    }
    add("EOD\n");
  }

  void operator()(const std::string& name, const BandLayer& band) {
    add("{} << EOD\n", name);
    for (std::size_t i = 0; i < band.x.size(); ++i) {
      if (std::isfinite(band.lower[i]) && std::isfinite(band.upper[i]))
        add("{} {} {}\n", band.x[i], band.lower[i], band.upper[i]);
      else
        add("\n");
    }
    add("EOD\n");
  }

  void operator()(const std::string& name, const TextLayer& texts) {
    add("{} << EOD\n", name);
    for (std::size_t i = 0; i < texts.x.size(); ++i) {
      std::string safe = readable_line(texts.texts[i]); // a line break would end the block of data
      std::ranges::replace(safe, '"', '\'');
      add("{} {} \"{}\"\n", texts.x[i], texts.y[i], safe);
    }
    add("EOD\n");
  }

  void operator()(const std::string& name, const PixelLayer& pixels) {
    add("{} << EOD\n", name);
    std::size_t place = 0;
    for (const double y : pixels.y) {
      for (const double x : pixels.x) {
        const auto [red, green, blue] = pixels.colors[place++];
        add("{:.7g} {:.7g} {} {} {}\n", x, y, red, green, blue);
      }
    }
    add("EOD\n");
  }

  void operator()(const std::string& name, const VeilLayer& veil) {
    constexpr int opacity = 150;
    add("{} << EOD\n", name);
    for (Index i = 0; i < veil.covered.rows(); ++i) {
      for (Index j = 0; j < veil.covered.cols(); ++j)
        add("{:.7g} {:.7g} 232 229 224 {}\n", veil.x[j], veil.y[i], veil.covered(i, j) > 0 ? opacity : 0);
    }
    add("EOD\n");
  }

  /// Rows of x, y, height and colour.
  void operator()(const std::string& name, const SurfaceLayer& surface) {
    const FieldLayer& field = surface.field;
    add("{} << EOD\n", name);
    for (Index i = 0; i < field.values.rows(); ++i) {
      for (Index j = 0; j < field.values.cols(); ++j) {
        const double value = field.values(i, j);
        add("{:.6g} {:.6g} {:.6g} {:.4g}\n", field.x[j], field.y[i], value, place_among(field.levels, value));
      }
      add("\n");
    }
    add("EOD\n{}_contours << EOD\n", name);
    for (const ContourSegment& segment : contour_segments(field))
      add("{:.6g} {:.6g} {:.6g} {:.6g} {:.6g} 0\n", segment.x1, segment.y1, ground_, segment.x2 - segment.x1,
          segment.y2 - segment.y1);
    add("EOD\n");
  }

  void operator()(const std::string& name, const FieldLayer& field) {
    add("{} << EOD\n", name);
    for (Index i = 0; i < field.values.rows(); ++i) {
      for (Index j = 0; j < field.values.cols(); ++j) add("{:.3f} ", place_among(field.levels, field.values(i, j)));
      add("\n");
    }
    add("EOD\n");
    add("{}_contours << EOD\n", name);
    for (const ContourSegment& segment : contour_segments(field)) {
      add("{:.6g} {:.6g} {:.6g} {:.6g}\n", segment.x1, segment.y1, segment.x2 - segment.x1, segment.y2 - segment.y1);
    }
    add("EOD\n");
  }

 private:
  template <class... Arguments>
  void add(fmt::format_string<Arguments...> form, Arguments&&... arguments) {
    fmt::format_to(std::back_inserter(text_), form, std::forward<Arguments>(arguments)...);
  }

  fmt::memory_buffer& text_;
  double ground_;
};

} // namespace

void append_data(fmt::memory_buffer& text, const std::string& name, const Layer& layer, double ground) {
  DataWriter write(text, ground);
  std::visit([&](const auto& content) { write(name, content); }, layer);
}

} // namespace tanzen
