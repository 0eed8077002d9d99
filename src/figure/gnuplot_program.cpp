#include "tanzen/base/text.hpp"
#include "tanzen/figure/render.hpp"

#include "gnuplot_data.hpp"
#include "gnuplot_renderer.hpp"
#include "gnuplot_text.hpp"
#include "layout.hpp"
#include "scale.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <iterator>
#include <utility>

namespace tanzen {
namespace {

constexpr std::string_view font = "DejaVu Sans";

std::string terminal(const Figure& figure, std::string_view ending) {
  if (ending == ".svg") {
    return fmt::format("set terminal svg size {},{} rounded enhanced font '{},13' background '#ffffff'\n", figure.width,
                       figure.height, font);
  }
  if (ending == ".pdf") {
    return fmt::format("set terminal pdfcairo size {}in,{}in rounded enhanced font '{},12'\n", figure.width / 100.0,
                       figure.height / 100.0, font);
  }
  if (ending == ".gif") {
    const double hundredths =
        100 * figure.seconds / static_cast<double>(std::max<std::size_t>(1, figure.frames.size()));
    return fmt::format("set terminal gif size {},{} animate delay {:.0f} loop 0 enhanced font '{},11' background "
                       "'#ffffff'\n",
                       figure.width, figure.height, std::max(2.0, hundredths), font);
  }
  return fmt::format("set terminal pngcairo size {},{} rounded enhanced font '{},12' background '#ffffff'\n",
                     figure.width, figure.height, font);
}

/// Builds the text of one figure.
class Program {
 public:
  explicit Program(const Figure& figure) : figure_(figure) {}

  /// One picture. In a film the pictures after the first are drawn into the same file, and what does not move keeps its
  /// data: `film` says what does.
  std::string write(std::string_view ending, const Figure* film = nullptr, bool is_first = true) {
    add("set encoding utf8\nset datafile missing 'NaN'\n");
    if (is_first) add(terminal(film == nullptr ? figure_ : *film, ending));
    for (std::size_t k = 0; k < figure_.panels.size(); ++k) define_data(k, is_first ? nullptr : &film->panels[k]);
    add("set multiplot\n");
    add("set label 1 {} at screen 0.022,0.955 left noenhanced font '{},16' textcolor rgb '{}'\n",
        in_quotes(figure_.title), font, text_color);
    add("set label 2 {} at screen 0.022,0.03 left noenhanced font '{},10' textcolor rgb '#786f65'\n",
        in_quotes(clipped(figure_.caption, 165)), font);
    const auto places = layout(figure_);
    for (std::size_t k = 0; k < figure_.panels.size(); ++k) {
      draw_panel(k, places[k]);
      add("unset label 1\nunset label 2\n");
    }
    add(film == nullptr ? "unset multiplot\n" : "unset multiplot\nreset\n");
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

  /// The data of a panel's layers; with a panel of a film, of those of its layers that move.
  void define_data(std::size_t panel, const Panel* of_film) {
    const auto& layers = figure_.panels[panel].layers;
    const auto& heights = figure_.panels[panel].z.range;
    for (std::size_t k = 0; k < layers.size(); ++k) {
      if (of_film != nullptr && !is_moving(of_film->layers[k])) continue;
      append_data(text_, data_name(panel, k), layers[k], heights ? (*heights)[0] : 0);
    }
  }

  static bool is_moving(const Layer& layer) {
    if (const auto* line = std::get_if<LineLayer>(&layer)) return !line->shown.empty();
    const auto* points = std::get_if<PointLayer>(&layer);
    return points != nullptr && !points->shown.empty();
  }

  /// Whether anything of a layer has a place on its axes.
  static bool has_place(const Layer& layer) {
    const auto any_finite = [](const std::vector<double>& x, const std::vector<double>& y) {
      for (std::size_t k = 0; k < x.size(); ++k) {
        if (std::isfinite(x[k]) && std::isfinite(y[k])) return true;
      }
      return false;
    };
    if (const auto* line = std::get_if<LineLayer>(&layer)) return any_finite(line->x, line->y);
    if (const auto* points = std::get_if<PointLayer>(&layer)) return any_finite(points->x, points->y);
    if (const auto* band = std::get_if<BandLayer>(&layer)) return any_finite(band->x, band->lower);
    if (const auto* texts = std::get_if<TextLayer>(&layer)) return any_finite(texts->x, texts->y);
    return true;
  }

  static const SurfaceLayer* surface_of(const Panel& panel) {
    for (const Layer& layer : panel.layers) {
      if (const auto* surface = std::get_if<SurfaceLayer>(&layer)) return surface;
    }
    return nullptr;
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

  /// The distance of the tics of a horizontal axis so long, in pixels, that their numbers have room side by side.
  static std::string roomy_stride(const Axis& axis, double length) {
    constexpr double digit = 8.5, gap = 22;
    constexpr int most = 9;
    const auto [low, high] = *axis.range;
    const double span = high - low;
    if (!(span > 0) || !std::isfinite(span)) return "autofreq";
    for (double decade = std::pow(10.0, std::floor(std::log10(span)) - 2);; decade *= 10) {
      for (const double stride : {decade, 2 * decade, 5 * decade}) {
        if (axis.whole_numbers && stride < 1) continue;
        std::size_t widest = 1;
        for (double tic = std::ceil(low / stride) * stride; tic <= high && span / stride <= most; tic += stride)
          widest = std::max(widest, fmt::format("{:.6g}", std::round(tic / stride) * stride).size());
        const double count = span / stride;
        if (count <= most && count * (digit * static_cast<double>(widest) + gap) <= length)
          return fmt::format("{:.12g}", stride);
        if (count < 1) return "autofreq";
      }
    }
  }

  /// Names in place of numbers; where those of a horizontal axis have no room side by side they are turned.
  void name_tics(char name, const std::vector<std::string>& names, double length) {
    constexpr double character = 8.5;
    std::vector<std::string> tics;
    std::size_t longest = 0;
    for (std::size_t k = 0; k < names.size(); ++k) {
      tics.push_back(fmt::format("{} {}", tic_in_quotes(names[k]), k + 1));
      longest = std::max(longest, character_count(names[k]));
    }
    const double room = length / static_cast<double>(names.size());
    const bool is_turned = name == 'x' && character * static_cast<double>(longest) > room;
    add("set {}tics {} noenhanced ({})\n", name, is_turned ? "rotate by 25 right" : "norotate", joined(tics, ", "));
  }

  void number_tics(char name, const std::vector<double>& numbers) {
    std::vector<std::string> tics;
    for (const double number : numbers)
      tics.push_back(fmt::format("'{}' {}", short_number(number, std::abs(number) < 1e6 ? 6 : 4), number));
    add("set {}tics norotate ({})\n", name, joined(tics, ", "));
  }

  void draw_end_labels(const Panel& panel, const Rectangle& place) {
    constexpr int first_number = 10;
    const auto places = end_label_places(panel, (place.top - place.bottom) * figure_.height);
    for (std::size_t k = 0; k < places.size(); ++k)
      add("set label {} {} at graph 1.012,graph {} left noenhanced textcolor rgb '{}'\n",
          first_number + static_cast<int>(k), in_quotes(panel.end_labels[k].text), places[k],
          panel.end_labels[k].color);
  }

  void draw_axis(char name, const Axis& axis, double length) {
    add("set {}label {} noenhanced textcolor rgb '{}'\n", name, in_quotes(axis.label), text_color);
    add(axis.logarithmic ? fmt::format("set logscale {}\nset format {} '10^{{%L}}'\n", name, name)
                         : fmt::format("unset logscale {}\nset format {} '%g'\n", name, name));
    const bool is_measured = name == 'x' && axis.range && !axis.logarithmic;
    add("set {}tics {}\n", name,
        is_measured          ? roomy_stride(axis, length)
        : axis.whole_numbers ? whole_stride(axis)
                             : std::string("autofreq"));
    if (axis.hidden) add("unset {}tics\n", name);
    if (!axis.tics.empty()) number_tics(name, axis.tics);
    if (!axis.names.empty()) name_tics(name, axis.names, length);
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
    add("set style textbox opaque fillcolor rgb '#30ffffff' noborder margins 0.6,0.4\n");
    add("set border 3 linecolor rgb '{}' linewidth 0.8\nset tics nomirror scale 0.5 textcolor rgb '{}'\n", axis_color,
        text_color);
    if (panel.key_inside) {
      const auto [is_right, is_top] = freest_corner(panel);
      add("set key at screen {},{} {} {} vertical opaque samplen 1.5 textcolor rgb '{}' noenhanced\n",
          is_right ? place.right - 0.01 : place.left + 0.02, is_top ? place.top - 0.01 : place.bottom + 0.02,
          is_right ? "right" : "left Left reverse", is_top ? "top" : "bottom", text_color);
    } else {
      add("set key at screen {},{} right center horizontal samplen 1.5 textcolor rgb '{}' noenhanced\n", place.right,
          place.top + (is_stacked ? 0.022 : 0.025), text_color);
    }
    draw_axis('x', panel.x, (place.right - place.left) * figure_.width);
    draw_axis('y', panel.y, (place.top - place.bottom) * figure_.height);
    if (shares_axis) add("unset xlabel\nset format x ''\n");
    if (panel.y.hidden) add("unset border\nset border 1 linecolor rgb '{}' linewidth 0.8\n", axis_color);
    draw_end_labels(panel, place);

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
                  : std::string("set grid back linetype 1 linecolor rgb '#e8e3dc' linewidth 0.6\nunset colorbox\n"));
    if (const SurfaceLayer* surface = surface_of(panel)) prepare_surface(surface->field);
    if (is_in_space(panel)) prepare_space(panel, place);
    // Of nothing that has a place gnuplot draws no axes.
    if (std::ranges::none_of(panel.layers, has_place)) {
      for (const auto& [name, axis] : {std::pair{'x', &panel.x}, std::pair{'y', &panel.y}}) {
        if (!axis->range) add("set {}range [{}:1]\n", name, axis->logarithmic ? 0.1 : 0);
      }
      parts = {"NaN notitle"};
    }
    add("{} {}\n", is_in_space(panel) ? "splot" : "plot", joined(parts, ", \\\n  "));
    for (std::size_t label = 0; label < panel.end_labels.size(); ++label) add("unset label {}\n", 10 + label);
  }

  void prepare_surface(const FieldLayer& field) {
    add("set palette defined (0 '{}', 0.34 '{}', 0.67 '{}', 1 '{}')\n", surface_colors[0], surface_colors[1],
        surface_colors[2], surface_colors[3]);
    add("set cbrange [0:{}]\nunset colorbox\nset pm3d scansautomatic\n", field.levels.size() + 1);
  }

  void prepare_space(const Panel& panel, const Rectangle& place) {
    add("set view {},{},0.95,1.3\n", 90 - panel.view.elevation, std::fmod(panel.view.azimuth + 90, 360.0));
    add("set border 127 linewidth 0.4\nunset grid\n");
    // Alone it has the whole picture; otherwise its place with the room for the axes' names.
    const bool is_alone = figure_.panels.size() == 1;
    constexpr double aside = 0.06, below = 0.1;
    add("unset lmargin\nunset rmargin\nunset bmargin\nunset tmargin\nset size {},{}\nset origin {},{}\n",
        is_alone ? 1 : place.right - place.left + 2 * aside, is_alone ? 0.9 : place.top - place.bottom + below,
        is_alone ? 0 : place.left - aside, is_alone ? 0.04 : place.bottom - below);
    draw_axis('z', panel.z, 0);
    add("set zlabel rotate by 90\n");
    if (panel.z.range)
      add("set xyplane at {}\n", (*panel.z.range)[0]);
    else
      add("set xyplane relative 0.05\n");
  }

  /// The columns of a place: two, or three in space.
  template <class LayerType>
  static const char* columns_of(const LayerType& layer) {
    return layer.z.empty() ? "1:2" : "1:2:3";
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
    const auto names = level_names(field.levels);
    for (std::size_t level = 0; level < names.size(); level += stride)
      tics.push_back(fmt::format("{} {}", tic_in_quotes(names[level]), level + 1));
    add("set cbtics ({}) scale 0.3 font '{},10'\n", joined(tics, ", "), font);
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

  void append_parts(std::vector<std::string>& parts, const std::string& name, const VeilLayer& /*veil*/) {
    parts.push_back(fmt::format("{} using 1:2:3:4:5:6 with rgbalpha notitle", name));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const SurfaceLayer& /*surface*/) {
    // The ground first: what is drawn later covers what was drawn before.
    parts.push_back(
        fmt::format("{}_contours using 1:2:3:4:5:6 with vectors nohead linewidth 0.6 linecolor rgb '{}' notitle", name,
                    axis_color));
    parts.push_back(fmt::format("{} using 1:2:3:4 with pm3d notitle", name));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const BandLayer& band) {
    parts.push_back(
        fmt::format("{} using 1:2:3 with filledcurves fillcolor rgb '#c8{}' fillstyle solid noborder notitle", name,
                    band.color.substr(1)));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const TextLayer& texts) {
    const char* align = texts.align == TextLayer::Align::left    ? "left"
                        : texts.align == TextLayer::Align::right ? "right"
                                                                 : "center";
    parts.push_back(fmt::format("{} using 1:2:3 with labels {} noenhanced {}font '{},{}' textcolor rgb '{}' notitle",
                                name, align, texts.on_ground ? "boxed " : "", font, texts.size, texts.color));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const LineLayer& line) {
    if (line.cased)
      parts.push_back(fmt::format("{} using {} with lines linewidth {} linecolor rgb '#ffffff' notitle", name,
                                  columns_of(line), line.width + 2));
    parts.push_back(fmt::format("{} using {} with lines linewidth {} dashtype {} linecolor rgb '{}' {}", name,
                                columns_of(line), line.width, line.dash, line.color, title(line.label)));
  }

  void append_parts(std::vector<std::string>& parts, const std::string& name, const PointLayer& points) {
    const auto mark = [&](int type, double size, std::string_view color, double width, const std::string& named) {
      parts.push_back(
          fmt::format("{} using {} with points pointtype {} pointsize {} linewidth {} linecolor rgb '{}' {}", name,
                      columns_of(points), type, size, width, color, named));
    };
    switch (points.marker) {
    case Marker::dot: mark(7, points.size, points.color, 1, title(points.label)); break;
    case Marker::ring:
      mark(6, points.size, "#ffffff", 4.5, "notitle");
      mark(6, points.size, points.color, 2, title(points.label));
      break;
    case Marker::diamond:
      mark(13, points.size + 0.5, "#ffffff", 1, "notitle");
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

bool is_in_space(const Panel& panel) {
  return std::ranges::any_of(panel.layers, [](const Layer& layer) {
    if (const auto* line = std::get_if<LineLayer>(&layer)) return !line->z.empty();
    if (const auto* points = std::get_if<PointLayer>(&layer)) return !points->z.empty();
    return std::holds_alternative<SurfaceLayer>(layer);
  });
}

std::string gnuplot_program(const Figure& figure, std::string_view ending) {
  return Program(figure).write(ending);
}

std::string gnuplot_film(const Figure& figure, const std::vector<Figure>& pictures) {
  std::string text;
  for (std::size_t k = 0; k < pictures.size(); ++k) text += Program(pictures[k]).write(".gif", &figure, k == 0);
  return text + "unset output\n";
}

} // namespace tanzen
