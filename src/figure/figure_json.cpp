#include "figure_json.hpp"

#include "contours.hpp"
#include "packed.hpp"
#include "scale.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>
#include <nlohmann/json.hpp>

namespace tanzen {
namespace {

using Json = nlohmann::ordered_json;

template <class Number>
Json in_single_precision(const std::vector<Number>& numbers) {
  std::vector<unsigned char> bytes(4 * numbers.size());
  for (std::size_t k = 0; k < numbers.size(); ++k) {
    const auto number = static_cast<float>(numbers[k]);
    std::memcpy(bytes.data() + 4 * k, &number, 4);
  }
  return {{"single", base64(bytes)}};
}

/// Whether single precision is finer than can be seen of numbers: they span more than a thousandth of their size.
bool is_fine_in_single(const std::vector<double>& numbers) {
  double least = std::numeric_limits<double>::infinity(), most = -least, size = 0;
  for (const double number : numbers) {
    if (!std::isfinite(number)) continue;
    least = std::min(least, number);
    most = std::max(most, number);
    size = std::max(size, std::abs(number));
  }
  return most - least > 1e-3 * size && size < 1e37;
}

/// A list, or where it is long packed.
Json numbers_of(const std::vector<double>& numbers) {
  constexpr std::size_t most_listed = 100;
  if (numbers.size() > most_listed && is_fine_in_single(numbers)) return in_single_precision(numbers);
  Json list = Json::array();
  for (const double number : numbers) list.push_back(std::isfinite(number) ? Json(number) : Json());
  return list;
}

Json grid_axis(const Vector& places) {
  return {{"from", places[0]}, {"to", places[places.size() - 1]}, {"count", places.size()}};
}

std::vector<double> rows_of(const Matrix& values) {
  std::vector<double> numbers;
  numbers.reserve(static_cast<std::size_t>(values.size()));
  for (Index i = 0; i < values.rows(); ++i) {
    for (Index j = 0; j < values.cols(); ++j) numbers.push_back(values(i, j));
  }
  return numbers;
}

/// The lines of all levels, one after the other, with a break between two.
Json curves_of(const FieldLayer& field) {
  const Matrix places = field.values.unaryExpr([&](double value) { return place_among(field.levels, value); });
  std::vector<double> x, y;
  for (std::size_t level = 1; level <= field.levels.size(); ++level) {
    for (const Curve& curve : level_curves(field.x, field.y, places, static_cast<double>(level))) {
      x.insert(x.end(), curve.x.begin(), curve.x.end());
      y.insert(y.end(), curve.y.begin(), curve.y.end());
      x.push_back(std::nan(""));
      y.push_back(std::nan(""));
    }
  }
  return {{"x", in_single_precision(x)}, {"y", in_single_precision(y)}};
}

const char* word(Marker marker) {
  switch (marker) {
  case Marker::dot: return "dot";
  case Marker::ring: return "ring";
  case Marker::diamond: return "diamond";
  case Marker::cross: break;
  }
  return "cross";
}

/// What lines and points have alike.
template <class Places>
Json places_of(const char* kind, const Places& layer) {
  Json object{{"kind", kind},         {"x", numbers_of(layer.x)}, {"y", numbers_of(layer.y)},
              {"color", layer.color}, {"label", layer.label},     {"series", layer.series}};
  if (!layer.z.empty()) object["z"] = numbers_of(layer.z);
  if (!layer.shown.empty()) object["shown"] = layer.shown;
  if (!layer.pointer.empty()) object["pointer"] = layer.pointer;
  return object;
}

struct LayerWriter {
  Json operator()(const LineLayer& line) const {
    Json object = places_of("line", line);
    object.update({{"width", line.width}, {"dash", line.dash}, {"cased", line.cased}});
    return object;
  }
  Json operator()(const PointLayer& points) const {
    Json object = places_of("points", points);
    object.update({{"marker", word(points.marker)}, {"size", points.size}});
    return object;
  }
  Json operator()(const FieldLayer& field) const {
    Json object{{"kind", "field"},         {"x", grid_axis(field.x)},
                {"y", grid_axis(field.y)}, {"values", in_single_precision(rows_of(field.values))},
                {"levels", field.levels},  {"level_names", level_names(field.levels)},
                {"lines", field.lines},    {"scale", field.scale}};
    if (field.lines && !field.levels.empty()) object["curves"] = curves_of(field);
    return object;
  }
  Json operator()(const SurfaceLayer& surface) const {
    Json object = (*this)(surface.field);
    object["kind"] = "surface";
    object["scale"] = false;
    return object;
  }
  Json operator()(const PixelLayer& pixels) const {
    std::vector<unsigned char> bytes;
    for (const auto& color : pixels.colors) bytes.insert(bytes.end(), color.begin(), color.end());
    return {{"kind", "pixels"}, {"x", grid_axis(pixels.x)}, {"y", grid_axis(pixels.y)}, {"colors", base64(bytes)}};
  }
  Json operator()(const VeilLayer& veil) const {
    std::vector<unsigned char> bytes;
    for (const double covered : rows_of(veil.covered)) bytes.push_back(covered > 0 ? 1 : 0);
    return {{"kind", "veil"}, {"x", grid_axis(veil.x)}, {"y", grid_axis(veil.y)}, {"covered", base64(bytes)}};
  }
  Json operator()(const BandLayer& band) const {
    return {{"kind", "band"},
            {"x", numbers_of(band.x)},
            {"lower", numbers_of(band.lower)},
            {"upper", numbers_of(band.upper)},
            {"color", band.color},
            {"series", band.series}};
  }
  Json operator()(const TextLayer& text) const {
    const char* align = text.align == TextLayer::Align::left    ? "left"
                        : text.align == TextLayer::Align::right ? "right"
                                                                : "center";
    return {{"kind", "text"},      {"x", numbers_of(text.x)},     {"y", numbers_of(text.y)},
            {"texts", text.texts}, {"color", text.color},         {"align", align},
            {"size", text.size},   {"on_ground", text.on_ground}, {"series", text.series}};
  }
};

Json axis_of(const Axis& axis) {
  Json object{{"label", axis.label},
              {"logarithmic", axis.logarithmic},
              {"whole_numbers", axis.whole_numbers},
              {"tics", axis.tics},
              {"names", axis.names},
              {"hidden", axis.hidden}};
  if (axis.range) object["range"] = *axis.range;
  return object;
}

Json panel_of(const Panel& panel) {
  Json layers = Json::array(), ends = Json::array();
  for (const Layer& layer : panel.layers) layers.push_back(std::visit(LayerWriter{}, layer));
  for (const EndLabel& label : panel.end_labels) {
    ends.push_back({{"y", label.y},
                    {"text", label.text},
                    {"color", label.color},
                    {"series", label.series.empty() ? label.text : label.series}});
  }
  return {{"title", panel.title},
          {"x", axis_of(panel.x)},
          {"y", axis_of(panel.y)},
          {"z", axis_of(panel.z)},
          {"view", {{"azimuth", panel.view.azimuth}, {"elevation", panel.view.elevation}}},
          {"in_space", is_in_space(panel)},
          {"width", panel.width},
          {"end_labels", std::move(ends)},
          {"layers", std::move(layers)}};
}

} // namespace

nlohmann::ordered_json figure_json(const Figure& figure) {
  const bool is_stacked = figure.arrangement == Figure::Arrangement::stacked;
  Json panels = Json::array();
  for (const Panel& panel : figure.panels) panels.push_back(panel_of(panel));
  return {{"title", figure.title},
          {"caption", figure.caption},
          {"arrangement", is_stacked ? "stacked" : "side by side"},
          {"columns", figure.columns},
          {"last_panel_below", figure.last_panel_below},
          {"frames", figure.frames},
          {"seconds", figure.seconds},
          {"panels", std::move(panels)}};
}

} // namespace tanzen
