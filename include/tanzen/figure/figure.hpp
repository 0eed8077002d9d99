#pragma once

#include "tanzen/numeric/vector.hpp"

#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace tanzen {

/// The colours of surfaces, from low values to high: night blue, plum, terracotta, sand; lightness rises steadily.
inline constexpr std::array<std::string_view, 4> surface_colors = {"#16213e", "#5d2a5b", "#b65a3c", "#efe0bd"};

/// Colours of methods and curves that stay apart for colour-blind readers; taken in this order.
inline constexpr std::array<std::string_view, 8> series_colors = {"#1d4f91", "#c8641b", "#15806f", "#8a2f6b",
                                                                  "#b8930a", "#56616e", "#a5342a", "#4b9fce"};

/// What lies on the picture's ground and names.
inline constexpr std::string_view path_color = "#1e1a16";
inline constexpr std::string_view axis_color = "#a2988d";
inline constexpr std::string_view text_color = "#4a433b";

/// For each frame of a figure that moves which places of a layer are shown: from the first up to the end. Empty: all in
/// each.
using FrameSpans = std::vector<std::array<std::size_t, 2>>;

/// A connected line. NaN breaks it. With `z` it lies in space, on a panel with a surface or a z axis.
struct LineLayer {
  std::vector<double> x = {};
  std::vector<double> y = {};
  std::string color = std::string(path_color);
  double width = 2;
  int dash = 1;           ///< 1 is solid; each further number a pattern of its own
  bool cased = false;     ///< on a white line, so that it is seen on any ground
  std::string label = {}; ///< named in the panel's key; empty is not
  std::vector<double> z = {};
  std::string series = {}; ///< the method, run or member that it belongs to, to be switched off with it; empty: none
  FrameSpans shown = {};
  std::vector<std::string> pointer = {}; ///< what a pointer is told at each place; empty: its numbers
};

enum class Marker { dot, ring, diamond, cross };

struct PointLayer {
  std::vector<double> x = {};
  std::vector<double> y = {};
  Marker marker = Marker::dot;
  std::string color = std::string(path_color);
  double size = 1;
  std::string label = {};
  std::vector<double> z = {};            ///< in space, as of a line
  std::string series = {};               ///< as of a line
  FrameSpans shown = {};                 ///< as of a line
  std::vector<std::string> pointer = {}; ///< what a pointer is told at each place; empty: its numbers
};

/// Values over a grid, as filled contours. `levels` rise; a value below the first or above the last takes its colour.
struct FieldLayer {
  Vector x = {};      ///< evenly spaced
  Vector y = {};      ///< evenly spaced
  Matrix values = {}; ///< row i for y[i], column j for x[j]; NaN where the function has no value
  std::vector<double> levels = {};
  bool lines = true; ///< drawn between the levels
  bool scale = true; ///< named beside the panel
};

/// A colour for each place of a grid.
struct PixelLayer {
  Vector x = {}; ///< evenly spaced
  Vector y = {}; ///< evenly spaced
  std::vector<std::array<std::uint8_t, 3>> colors =
      {}; ///< red, green and blue; that of x[j], y[i] at i * (size of x) + j
};

/// A grey that lies over part of a grid, see-through.
struct VeilLayer {
  Vector x = {};       ///< evenly spaced
  Vector y = {};       ///< evenly spaced
  Matrix covered = {}; ///< 1 where it lies, 0 elsewhere; row i for y[i], column j for x[j]
};

/// The same values as a surface in perspective; on its panel there are besides it only lines and points in space.
struct SurfaceLayer {
  FieldLayer field;
};

/// Whence a panel in space is looked at, in degrees.
struct View {
  double azimuth = 304;  ///< of the eye, counted from the first axis towards the second
  double elevation = 34; ///< of the eye above the ground
};

/// The ground between two lines over the same x, see-through.
struct BandLayer {
  std::vector<double> x = {};
  std::vector<double> lower = {};
  std::vector<double> upper = {};
  std::string color = std::string(axis_color);
  std::string series = {}; ///< as of a line
};

/// Words at places, centred on them unless said otherwise.
struct TextLayer {
  enum class Align { left, center, right };
  std::vector<double> x = {};
  std::vector<double> y = {};
  std::vector<std::string> texts = {};
  std::string color = std::string(text_color);
  Align align = Align::center;
  int size = 11;
  bool on_ground = false;  ///< on a light ground of its own, so that it is read on any
  std::string series = {}; ///< as of a line
};

using Layer =
    std::variant<LineLayer, PointLayer, FieldLayer, SurfaceLayer, PixelLayer, VeilLayer, BandLayer, TextLayer>;

/// The name of a series beside the end of its curve, outside the axes; where several are near, they are moved apart.
struct EndLabel {
  double y = 0; ///< where the curve ends, on an axis with a range
  std::string text = {};
  std::string color = std::string(text_color);
  std::string series = {}; ///< as of a line; empty: what the text says
};

struct Axis {
  std::string label = {};
  bool logarithmic = false;
  bool whole_numbers = false; ///< nothing between them is named
  std::optional<std::array<double, 2>> range = {};
  std::vector<double> tics = {};       ///< the only numbers named, where there are any
  std::vector<std::string> names = {}; ///< in place of numbers: of 1, 2, and so on
  bool hidden = false;                 ///< neither line nor tics
};

/// One pair of axes with what is drawn on it, bottom layer first.
struct Panel {
  std::string title = {};
  Axis x = {};
  Axis y = {};
  Axis z = {}; ///< of a panel in space
  View view = {};
  std::vector<Layer> layers = {};
  double width = 1;                      ///< of its column, against the others'
  std::vector<EndLabel> end_labels = {}; ///< in place of a key
  bool key_inside = false;               ///< names stand one below the other in the freest corner, not above in a row
};

/// Whether anything on a panel lies in space.
[[nodiscard]] bool is_in_space(const Panel& panel);

/// The part of the cased lines over a panel's surface that is seen from a view, from 0 to 1. The panel has a surface
/// and ranges of all three axes.
[[nodiscard]] double seen_part(const Panel& panel, const View& view);

/// A picture: panels side by side, one above the other, or in rows of `columns`.
struct Figure {
  enum class Arrangement { side_by_side, stacked };

  std::string title = {};
  std::string caption = {}; ///< what was run
  Arrangement arrangement = Arrangement::side_by_side;
  std::vector<Panel> panels = {};
  std::size_t columns = 0;              ///< panels in a row; 0 is all in one
  bool last_panel_below = false;        ///< the last panel has a row of its own under the others
  std::vector<std::string> frames = {}; ///< what each is called, of a figure that moves; a still picture shows the last
  double seconds = 10;                  ///< that all its frames take, played at their own speed
  int width = 1280;                     ///< pixels of a PNG; other forms take the proportion
  int height = 800;
};

/// The same figure with `count` of its frames, spread evenly, the first and the last among them.
[[nodiscard]] Figure with_frames(Figure figure, std::size_t count);

/// Whether values are better shown on a logarithmic axis: all positive, over more than two decades.
[[nodiscard]] bool wants_logarithm(const std::vector<double>& values);

} // namespace tanzen
