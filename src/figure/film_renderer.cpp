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

/// A folder for the pictures of a film, which goes away with its owner.
struct PictureFolder {
  std::filesystem::path path;

  explicit PictureFolder(std::filesystem::path folder) : path(std::move(folder)) {
    std::error_code error;
    std::filesystem::create_directories(path, error);
    if (error) throw FileError(fmt::format("cannot make the folder {}: {}", path.string(), error.message()));
  }
  PictureFolder(const PictureFolder&) = delete;
  PictureFolder& operator=(const PictureFolder&) = delete;
  ~PictureFolder() {
    std::error_code ignored;
    std::filesystem::remove_all(path, ignored);
  }
};

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

/// All frames as pictures of a folder, numbered from 1, by one run of gnuplot.
void draw_pictures(const Figure& figure, const std::filesystem::path& folder) {
  std::string program;
  for (std::size_t frame = 0; frame < figure.frames.size(); ++frame)
    program += gnuplot_program(picture_of(figure, frame), folder / fmt::format("{:05}.png", frame + 1)) + "reset\n";
  run_gnuplot_program(program, folder / "film");
}

void draw_gif(const Figure& figure, const std::filesystem::path& path) {
  std::vector<Figure> pictures;
  for (std::size_t frame = 0; frame < figure.frames.size(); ++frame) pictures.push_back(picture_of(figure, frame));
  run_gnuplot_program(gnuplot_film(figure, pictures, path), path);
}

void draw_mp4(const Figure& figure, const std::filesystem::path& path) {
  const PictureFolder folder(path.string() + ".pictures");
  draw_pictures(figure, folder.path);
  const double rate = static_cast<double>(figure.frames.size()) / figure.seconds;
  run_program("ffmpeg",
              {"-y", "-loglevel", "error", "-framerate", fmt::format("{:.4f}", rate), "-i",
               (folder.path / "%05d.png").string(), "-pix_fmt", "yuv420p", "-vf", "scale=trunc(iw/2)*2:trunc(ih/2)*2",
               path.string()},
              folder.path / "messages",
              "there is no coder: install the package ffmpeg, or choose .gif or .html, which need none");
}

} // namespace

std::span<const std::string_view> FilmRenderer::endings() const {
  static constexpr std::array<std::string_view, 2> all = {".gif", ".mp4"};
  return all;
}

void FilmRenderer::draw(const Figure& figure, const std::filesystem::path& path) const {
  constexpr std::size_t most_in_gif = 60, most_in_mp4 = 300;
  check_moves(figure);
  if (path.extension() == ".gif")
    draw_gif(with_frames(figure, most_in_gif), path);
  else
    draw_mp4(with_frames(figure, most_in_mp4), path);
}

} // namespace tanzen
