#include "film_renderer.hpp"

#include "tanzen/base/errors.hpp"

#include "film.hpp"
#include "gnuplot_renderer.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// A frame as a still picture that says which it is.
Figure picture_of(const Figure& figure, std::size_t frame) {
  Figure picture = still_at(figure, frame);
  picture.caption = fmt::format("{}  |  {}", figure.frames[frame], figure.caption);
  return picture;
}

void check_moves(const Figure& figure) {
  if (figure.frames.size() < 2)
    throw InputError("nothing in this figure moves, so it makes no film; .png, .svg, .pdf and .html show it");
}

std::string gif(const Figure& figure) {
  std::vector<Figure> pictures;
  for (std::size_t frame = 0; frame < figure.frames.size(); ++frame) pictures.push_back(picture_of(figure, frame));
  return drawn_by_gnuplot(gnuplot_film(figure, pictures));
}

/// The pictures one after the other, drawn by one run of gnuplot, through the coder.
std::string mp4(const Figure& figure) {
  std::string program;
  for (std::size_t frame = 0; frame < figure.frames.size(); ++frame)
    program += gnuplot_program(picture_of(figure, frame), ".png") + "reset\n";
  const double rate = static_cast<double>(figure.frames.size()) / figure.seconds;
  return output_of({"ffmpeg", "-y", "-loglevel", "error", "-f", "image2pipe", "-c:v", "png", "-framerate",
                    fmt::format("{:.4f}", rate), "-i", "-", "-pix_fmt", "yuv420p", "-vf",
                    "scale=trunc(iw/2)*2:trunc(ih/2)*2", "-f", "mp4", "file:/dev/stdout"},
                   drawn_by_gnuplot(program),
                   "there is no coder: install the package ffmpeg, or choose .gif or .html, which need none");
}

} // namespace

std::span<const std::string_view> FilmRenderer::endings() const {
  static constexpr std::array<std::string_view, 2> all = {".gif", ".mp4"};
  return all;
}

std::string FilmRenderer::drawn(const Figure& figure, std::string_view ending) const {
  constexpr std::size_t most_in_gif = 60, most_in_mp4 = 300;
  check_moves(figure);
  return ending == ".gif" ? gif(with_frames(figure, most_in_gif)) : mp4(with_frames(figure, most_in_mp4));
}

} // namespace tanzen
