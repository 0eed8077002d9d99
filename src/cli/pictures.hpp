#pragma once

#include "commands.hpp"
#include "outputs.hpp"

#include "tanzen/figure/figure.hpp"

#include <functional>
#include <optional>
#include <string>

namespace tanzen::cli {

/// `--figure FILE` and `--report FILE` of a command, and how long a film lasts.
struct PictureArguments {
  std::string figure = {}, report = {};
  std::optional<double> seconds = {};
  std::optional<std::int64_t> frames = {};

  /// `what` is what the figure shows; `films`: it moves.
  void add_to(const Command& command, const char* what, bool films = false);
  /// The report alone, and the options of a film alone.
  void add_report_to(const Command& command);
  void add_film_to(const Command& command);
  /// Throws, before anything is done, for names that no figure or report has, and for files, those of other options
  /// too, that cannot be written.
  void check(std::initializer_list<OutputFile> others = {}) const;
  [[nodiscard]] bool asked_for() const { return !figure.empty() || !report.empty(); }
  /// The figure with the frames and the length that were asked for.
  [[nodiscard]] Figure filmed(Figure figure) const;
  /// Draws (unless `make` is empty) and writes what was asked for and says so, or says nothing if `quiet`. A report has
  /// all that the command has printed so far.
  void write(const Context& context, const std::string& title, const std::function<Figure()>& make,
             bool quiet = false) const;
};

} // namespace tanzen::cli
