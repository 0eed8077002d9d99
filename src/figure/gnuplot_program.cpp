#include "tanzen/base/text.hpp"
#include "tanzen/figure/render.hpp"

#include "contours.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <iterator>

namespace tanzen {
namespace {

constexpr std::string_view font = "DejaVu Sans";

/// Text in single quotes, where gnuplot reads nothing but a doubled quote; line breaks and the like become blanks.
std::string in_quotes(std::string_view text) {
  std::string result = "'";
  for (const char c : text) {
    if (c == '\'')
      result += "''";
    else
      result += static_cast<unsigned char>(c) < 0x20 ? ' ' : c;
  }
  return result + "'";
}

std::string terminal(const Figure& figure, const std::filesystem::path& output) {
  const std::string ending = output.extension().string();
  if (ending == ".svg") {
    return fmt::format("set terminal svg size {},{} enhanced font '{},13' background '#ffffff'\n", figure.width,
                       figure.height, font);
  }
  if (ending == ".pdf") {
    return fmt::format("set terminal pdfcairo size {}in,{}in enhanced font '{},12'\n", figure.width / 100.0,
                       figure.height / 100.0, font);
  }
  return fmt::format("set terminal pngcairo size {},{} enhanced font '{},12' background '#ffffff'\n", figure.width,
                     figure.height, font);
}

struct Rectangle {
  double left, right, bottom, top; ///< parts of the screen
};

bool has_scale(const Panel& panel) {
  return std::ranges::any_of(panel.layers, [](const Layer& layer) {
    const auto* field = std::get_if<FieldLayer>(&layer);
    return field != nullptr && field->scale;
  });
}

/// Where each panel's axes stand.
std::vector<Rectangle> layout(const Figure& figure) {
  constexpr double top = 0.86, bottom = 0.135, left = 0.07, right = 0.975, gap = 0.085, stacked_gap = 0.065;
  std::vector<Rectangle> places;
  const auto count = static_cast<double>(figure.panels.size());
  if (figure.arrangement == Figure::Arrangement::stacked) {
    const double height = (top - bottom - (count - 1) * stacked_gap) / count;
    for (double k = 0; k < count; ++k) {
      const double upper = top - k * (height + stacked_gap);
      places.push_back({left, right, upper - height, upper});
    }
    return places;
  }
  const std::size_t in_rows = figure.panels.size() - (figure.last_panel_below ? 1 : 0);
  const std::size_t columns = figure.columns == 0 ? in_rows : std::min(figure.columns, in_rows);
  const auto rows = static_cast<double>((in_rows + columns - 1) / columns) + (figure.last_panel_below ? 1 : 0);
  const double row_gap = 0.12, height = (top - bottom - (rows - 1) * row_gap) / rows;
  for (std::size_t begin = 0; begin < in_rows; begin += columns) {
    const std::size_t end = std::min(begin + columns, in_rows);
    const double upper = top - static_cast<double>(begin / columns) * (height + row_gap);
    double all = 0;
    for (std::size_t k = begin; k < begin + columns; ++k)
      all += k < end ? figure.panels[k].width : figure.panels[begin].width;
    double at = left;
    for (std::size_t k = begin; k < end; ++k) {
      const double width = (right - left - static_cast<double>(columns - 1) * gap) * figure.panels[k].width / all;
      places.push_back({at, at + width - (has_scale(figure.panels[k]) ? 0.055 : 0), upper - height, upper});
      at += width + gap;
    }
  }
  if (figure.last_panel_below) places.push_back({left, right, bottom, bottom + height});
  return places;
}

/// Builds the text of one figure.
class Program {
 public:
  explicit Program(const Figure& figure) : figure_(figure) {}

  std::string write(const std::filesystem::path& output) {
    add("set encoding utf8\nset datafile missing 'NaN'\n");
    add(terminal(figure_, output));
    add("set output {}\n", in_quotes(output.string()));
    for (std::size_t k = 0; k < figure_.panels.size(); ++k) define_data(k);
    add("set multiplot\n");
    add("set label 1 {} at screen 0.022,0.955 left noenhanced font '{},16' textcolor rgb '{}'\n",
        in_quotes(figure_.title), font, text_color);
    add("set label 2 {} at screen 0.022,0.03 left noenhanced font '{},10' textcolor rgb '#667085'\n",
        in_quotes(clipped(figure_.caption, 165)), font);
    const auto places = layout(figure_);
    for (std::size_t k = 0; k < figure_.panels.size(); ++k) {
      draw_panel(k, places[k]);
      add("unset label 1\nunset label 2\n");
    }
    add("unset multiplot\nunset output\n");
    return fmt::to_string(text_);
  }

 private:
  template <class... Arguments>
  void add(fmt::format_string<Arguments...> form, Arguments&&... arguments) {
    fmt::format_to(std::back_inserter(text_), form, std::forward<Arguments>(arguments)...);
  }
  void add(const std::string& text) { text_.append(text); }

  static std::string data_name(std::size_t panel, std::size_t layer) {
    return fmt::format("$data_{}_{}", panel, layer);
  }

  void define_data(std::size_t panel) {
    const auto& layers = figure_.panels[panel].layers;
    for (std::size_t k = 0; k < layers.size(); ++k) {
      const std::string name = data_name(panel, k);
      if (const auto* field = std::get_if<FieldLayer>(&layers[k]))
        define_field(name, *field);
      else if (const auto* line = std::get_if<LineLayer>(&layers[k]))
        define_points(name, line->x, line->y);
      else if (const auto* points = std::get_if<PointLayer>(&layers[k]))
        define_points(name, points->x, points->y);
      else if (const auto* pixels = std::get_if<PixelLayer>(&layers[k]))
        define_pixels(name, *pixels);
      else
        define_surface(name, std::get<SurfaceLayer>(layers[k]).field);
    }
  }

  void define_points(const std::string& name, const std::vector<double>& x, const std::vector<double>& y) {
    add("{} << EOD\n", name);
    for (std::size_t i = 0; i < x.size(); ++i) {
      if (std::isfinite(x[i]) && std::isfinite(y[i]))
        add("{} {}\n", x[i], y[i]);
      else
        add("\n"); // a blank line breaks a connected line
    }
    add("EOD\n");
  }

  void define_pixels(const std::string& name, const PixelLayer& pixels) {
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

  /// Rows of x, y, height and colour. Heights over many decades are shown by the square root of the distance from the
  /// lowest level, which keeps the bottom of a valley in sight.
  void define_surface(const std::string& name, const FieldLayer& field) {
    const bool by_root = rises_by_decades(field.levels);
    add("{} << EOD\n", name);
    for (Index i = 0; i < field.values.rows(); ++i) {
      for (Index j = 0; j < field.values.cols(); ++j) {
        const double value = field.values(i, j);
        const double height = by_root ? std::sqrt(std::max(0.0, value - field.levels.front())) : value;
        add("{:.6g} {:.6g} {:.6g} {:.4g}\n", field.x[j], field.y[i], height, place_among(field.levels, value));
      }
      add("\n");
    }
    add("EOD\n");
  }

  static bool rises_by_decades(const std::vector<double>& levels) {
    if (levels.size() < 3) return false;
    const std::size_t last = levels.size() - 1;
    const double first_step = levels[1] - levels[0], last_step = levels[last] - levels[last - 1];
    return std::max(first_step, last_step) > 3 * std::min(first_step, last_step);
  }

  void define_field(const std::string& name, const FieldLayer& field) {
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

  /// How gnuplot turns places of the matrix into coordinates.
  static std::string grid_using(const FieldLayer& field) {
    const double dx = (field.x[field.x.size() - 1] - field.x[0]) / static_cast<double>(field.x.size() - 1);
    const double dy = (field.y[field.y.size() - 1] - field.y[0]) / static_cast<double>(field.y.size() - 1);
    return fmt::format("({}+$1*{}):({}+$2*{})", field.x[0], dx, field.y[0], dy);
  }

  /// Tics one apart where the axis is short; left to gnuplot where it is long.
  static std::string whole_stride(const Axis& axis) {
    const bool is_short = axis.range && (*axis.range)[1] - (*axis.range)[0] < 10;
    return is_short ? "1" : "autofreq";
  }

  void draw_axis(char name, const Axis& axis) {
    add("set {}label {} noenhanced textcolor rgb '{}'\n", name, in_quotes(axis.label), text_color);
    add(axis.logarithmic ? fmt::format("set logscale {}\nset format {} '10^{{%L}}'\n", name, name)
                         : fmt::format("unset logscale {}\nset format {} '%g'\n", name, name));
    add(axis.whole_numbers ? fmt::format("set {}tics {}\n", name, whole_stride(axis))
                           : fmt::format("set {}tics autofreq\n", name));
    if (axis.range)
      add("set {}range [{}:{}]\n", name, (*axis.range)[0], (*axis.range)[1]);
    else
      add("set autoscale {}\n", name);
  }

  void draw_panel(std::size_t k, const Rectangle& place) {
    const Panel& panel = figure_.panels[k];
    add("set lmargin at screen {}\nset rmargin at screen {}\n", place.left, place.right);
    add("set bmargin at screen {}\nset tmargin at screen {}\n", place.bottom, place.top);
    const bool is_stacked = figure_.arrangement == Figure::Arrangement::stacked;
    const bool shares_axis = is_stacked && k + 1 < figure_.panels.size();
    add("set label 3 {} at screen {},{} left noenhanced textcolor rgb '{}'\n", in_quotes(panel.title), place.left,
        place.top + (is_stacked ? 0.022 : 0.025), text_color);
    add("set border 3 linecolor rgb '{}' linewidth 0.8\nset tics nomirror scale 0.5 textcolor rgb '{}'\n", axis_color,
        text_color);
    if (panel.key_inside)
      add("set key at screen {},{} right bottom vertical opaque samplen 1.5 textcolor rgb '{}' noenhanced\n",
          place.right - 0.01, place.bottom + 0.02, text_color);
    else
      add("set key at screen {},{} right center horizontal samplen 1.5 textcolor rgb '{}' noenhanced\n", place.right,
          place.top + (is_stacked ? 0.022 : 0.025), text_color);
    draw_axis('x', panel.x);
    draw_axis('y', panel.y);
    if (shares_axis) add("unset xlabel\nset format x ''\n");

    std::vector<std::string> parts;
    bool has_field = false;
    for (std::size_t layer = 0; layer < panel.layers.size(); ++layer) {
      const std::string name = data_name(k, layer);
      std::visit([&](const auto& content) { append_parts(parts, name, content); }, panel.layers[layer]);
      if (const auto* field = std::get_if<FieldLayer>(&panel.layers[layer])) {
        draw_scale(*field, place);
        has_field = true;
      } else if (std::holds_alternative<PixelLayer>(panel.layers[layer])) {
        add("unset colorbox\n");
        has_field = true;
      }
    }
    add(has_field ? "unset grid\n"
                  : std::string("set grid back linetype 1 linecolor rgb '#e4e7ec' linewidth 0.6\nunset colorbox\n"));
    const bool is_surface = panel.layers.size() == 1 && std::holds_alternative<SurfaceLayer>(panel.layers.front());
    if (is_surface) prepare_surface(std::get<SurfaceLayer>(panel.layers.front()).field);
    add("{} {}\n", is_surface ? "splot" : "plot", joined(parts, ", \\\n  "));
  }

  void prepare_surface(const FieldLayer& field) {
    add("set palette defined (0 '{}', 0.34 '{}', 0.67 '{}', 1 '{}')\n", surface_colors[0], surface_colors[1],
        surface_colors[2], surface_colors[3]);
    add("set cbrange [0:{}]\nunset colorbox\nset view 56,34,0.95,1.3\nset border 127 linewidth 0.4\nunset grid\n",
        field.levels.size() + 1);
    add("set pm3d depthorder\nset xyplane relative 0.05\n");
    add("unset lmargin\nunset rmargin\nunset bmargin\nunset tmargin\nset size 1,0.9\nset origin 0,0.04\n");
    add("set zlabel {} rotate by 90 textcolor rgb '{}'\n",
        rises_by_decades(field.levels) ? "'square root of value'" : "'value'", text_color);
  }

  void draw_scale(const FieldLayer& field, const Rectangle& place) {
    const std::size_t bands = field.levels.size() + 1;
    add("set palette defined (0 '{}', 0.34 '{}', 0.67 '{}', 1 '{}') maxcolors {}\n", surface_colors[0],
        surface_colors[1], surface_colors[2], surface_colors[3], bands);
    add("set cbrange [0:{}]\n", bands);
    if (!field.scale) {
      add("unset colorbox\n");
      return;
    }
    add("set colorbox user origin {},{} size 0.012,{} noborder\n", place.right + 0.012, place.bottom,
        place.top - place.bottom);
    std::vector<std::string> tics;
    const std::size_t stride = std::max<std::size_t>(1, field.levels.size() / 8);
    for (std::size_t level = 0; level < field.levels.size(); level += stride) {
      tics.push_back(fmt::format("{} {}", in_quotes(level_text(field.levels[level])), level + 1));
    }
    add("set cbtics ({}) scale 0.3 font '{},10'\n", joined(tics, ", "), font);
  }

  /// Three digits, and whole numbers up to five: an exponent would not fit beside the scale.
  static std::string level_text(double level) {
    const bool is_large = std::abs(level) >= 1000 && std::abs(level) < 1e5;
    return is_large ? fmt::format("{:.0f}", level) : short_number(level, 3);
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const FieldLayer& field) {
    parts.push_back(fmt::format("{} matrix using {}:3 with image notitle", name, grid_using(field)));
    if (field.levels.empty() || !field.lines) return;
    parts.push_back(fmt::format(
        "{}_contours using 1:2:3:4 with vectors nohead linewidth 0.5 linecolor rgb '#99ffffff' notitle", name));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const PixelLayer& /*pixels*/) {
    parts.push_back(fmt::format("{} using 1:2:3:4:5 with rgbimage notitle", name));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const SurfaceLayer& /*surface*/) {
    parts.push_back(fmt::format("{} using 1:2:3:4 with pm3d notitle", name));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const LineLayer& line) {
    if (line.cased)
      parts.push_back(
          fmt::format("{} using 1:2 with lines linewidth {} linecolor rgb '#ffffff' notitle", name, line.width + 2));
    parts.push_back(fmt::format("{} using 1:2 with lines linewidth {} dashtype {} linecolor rgb '{}' {}", name,
                                line.width, line.dash, line.color, title(line.label)));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const PointLayer& points) {
    const auto mark = [&](int type, double size, std::string_view color, double width, const std::string& named) {
      parts.push_back(
          fmt::format("{} using 1:2 with points pointtype {} pointsize {} linewidth {} linecolor rgb '{}' {}", name,
                      type, size, width, color, named));
    };
    switch (points.marker) {
    case Marker::dot: mark(7, points.size, points.color, 1, title(points.label)); break;
    case Marker::ring:
      mark(6, points.size, "#ffffff", 4.5, "notitle");
      mark(6, points.size, points.color, 2, title(points.label));
      break;
    case Marker::diamond:
      mark(13, 1.45 * points.size, "#ffffff", 1, "notitle");
      mark(13, points.size, points.color, 1, title(points.label));
      break;
    case Marker::cross:
      // White alone would not be seen in the key, nor on sand.
      mark(2, points.size, path_color, 3.5, title(points.label));
      mark(2, points.size, points.color, 1.5, "notitle");
      break;
    }
  }

  static std::string title(const std::string& label) { return label.empty() ? "notitle" : "title " + in_quotes(label); }

  const Figure& figure_;
  fmt::memory_buffer text_;
};

} // namespace

std::string gnuplot_program(const Figure& figure, const std::filesystem::path& output) {
  return Program(figure).write(output);
}

} // namespace tanzen
