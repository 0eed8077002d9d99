#include "ready_figure.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

bool is_color(std::string_view text) {
  return text.size() == 7 && text[0] == '#' &&
         text.find_first_not_of("0123456789abcdefABCDEF", 1) == std::string_view::npos;
}

/// The layers of one panel, one after the other.
class LayerChecks {
 public:
  LayerChecks(std::size_t panel, std::size_t& next_color) : panel_(panel), next_color_(next_color) {}

  void operator()(LineLayer& line) { check_places(line); }
  void operator()(PointLayer& points) { check_places(points); }
  void operator()(BandLayer& band) {
    same("lower", band.lower.size(), band.x.size());
    same("upper", band.upper.size(), band.x.size());
    color(band.color);
  }
  void operator()(TextLayer& texts) {
    same("y", texts.y.size(), texts.x.size());
    same("texts", texts.texts.size(), texts.x.size());
    color(texts.color);
  }
  void operator()(FieldLayer& field) {
    grid("values", field.values.rows(), field.values.cols(), field.x, field.y);
    if (!std::ranges::is_sorted(field.levels)) fail("its levels do not rise");
  }
  void operator()(SurfaceLayer& surface) { (*this)(surface.field); }
  void operator()(VeilLayer& veil) { grid("covered", veil.covered.rows(), veil.covered.cols(), veil.x, veil.y); }
  void operator()(PixelLayer& pixels) {
    same("colors", pixels.colors.size(), static_cast<std::size_t>(pixels.x.size() * pixels.y.size()));
  }

  void check(Layer& layer, std::size_t number) {
    number_ = number;
    std::visit(*this, layer);
  }

 private:
  [[noreturn]] void fail(const std::string& what) const {
    throw InputError(fmt::format("layer {} of panel {} cannot be drawn: {}", number_ + 1, panel_ + 1, what));
  }
  void same(const char* list, std::size_t size, std::size_t wanted) const {
    if (size != wanted) fail(fmt::format("{} has {} where there must be {}", list, size, wanted));
  }
  void grid(const char* what, Index rows, Index columns, const Vector& x, const Vector& y) const {
    if (x.size() < 2 || y.size() < 2) fail("a grid has at least two places along each axis");
    if (rows != y.size() || columns != x.size())
      fail(fmt::format("{} are {} by {}, and the grid is {} by {}", what, rows, columns, y.size(), x.size()));
  }
  void color(std::string& text) {
    if (text.empty()) text = series_colors[next_color_++ % series_colors.size()];
    if (!is_color(text)) fail(fmt::format("a colour is written #1d4f91, not '{}'", clipped(text, 40)));
  }
  template <class Places>
  void check_places(Places& layer) {
    const std::size_t size = layer.x.size();
    same("y", layer.y.size(), size);
    if (!layer.z.empty()) same("z", layer.z.size(), size);
    if (!layer.pointer.empty()) same("pointer", layer.pointer.size(), size);
    for (const auto& [first, end] : layer.shown) {
      if (first > end || end > size) fail(fmt::format("a frame shows places {} to {} of {}", first, end, size));
    }
    color(layer.color);
  }

  std::size_t panel_, number_ = 0;
  std::size_t& next_color_;
};

/// A range that can be an axis: with two finite ends that the digits of numbers keep apart.
void widen(Axis& axis) {
  if (!axis.range) return;
  auto& [low, high] = *axis.range;
  if (!std::isfinite(low) || !std::isfinite(high)) {
    axis.range.reset();
    return;
  }
  constexpr double narrowest = 1e-9;
  if (low > high) std::swap(low, high);
  const double size = std::max(std::abs(low), std::abs(high));
  if (high - low > narrowest * size || (axis.logarithmic && high > low)) return;
  const double middle = 0.5 * (low + high), reach = size > 0 ? 0.05 * size : 1;
  low = axis.logarithmic ? middle / 2 : middle - reach;
  high = axis.logarithmic ? middle * 2 : middle + reach;
}

} // namespace

Figure ready_figure(Figure figure) {
  if (figure.panels.empty()) throw InputError("a figure needs at least one panel");
  for (std::size_t k = 0; k < figure.panels.size(); ++k) {
    Panel& panel = figure.panels[k];
    std::size_t next_color = 0;
    LayerChecks checks(k, next_color);
    for (std::size_t layer = 0; layer < panel.layers.size(); ++layer) checks.check(panel.layers[layer], layer);
    for (EndLabel& label : panel.end_labels) {
      if (!is_color(label.color))
        throw InputError(fmt::format("the name '{}' has a colour that is none", clipped(label.text, 40)));
    }
    for (Axis* axis : {&panel.x, &panel.y, &panel.z}) widen(*axis);
  }
  return figure;
}

} // namespace tanzen
