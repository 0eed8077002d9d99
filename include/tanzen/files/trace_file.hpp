#pragma once

#include "tanzen/search/outcome.hpp"

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

/// What a trace file says of its run.
struct RunLabel {
  std::string problem = {};
  std::string method = {};
  std::vector<std::pair<std::string, std::string>> settings = {};
  Sense sense = Sense::minimize;
  std::uint64_t seed = 0;
  std::string version = {}; ///< of the Tanzen that wrote it
  std::vector<std::string> variables = {};
};

struct LabelledTrace {
  RunLabel label;
  Trace trace;
};

[[nodiscard]] LabelledTrace labelled_trace(const Outcome& outcome);

/// The table alone: a header with the names of its columns, then a line a row; empty where a number is not known.
/// Columns that know nothing in any row are left out.
[[nodiscard]] std::string trace_table_to_csv(const Trace& trace);
/// Reads it by the names of its columns, in any order; `variables` are the last columns where they have these names. A
/// column that every trace has may be missing: it is not known then. No text is a trace without rows. Throws InputError
/// with the line.
[[nodiscard]] Trace trace_table_from_csv(std::string_view text, const std::vector<std::string>& variables = {},
                                         std::size_t first_line = 1);

/// A `#` line with the label as JSON, a header, then a line a row; empty where a number is not known.
[[nodiscard]] std::string trace_to_csv(const LabelledTrace& labelled);
/// One object a line, the label first; null where a number is not known, `"inf"` for infinity.
[[nodiscard]] std::string trace_to_json_lines(const LabelledTrace& labelled);

/// Read what the two functions above wrote, into the same trace. Throw InputError with the line.
[[nodiscard]] LabelledTrace trace_from_csv(std::string_view text);
[[nodiscard]] LabelledTrace trace_from_json_lines(std::string_view text);

/// Writes a trace by the ending of the name: .csv or .jsonl. Throws InputError for another ending.
void write_trace(const std::filesystem::path& path, const Outcome& outcome);
[[nodiscard]] LabelledTrace read_trace(const std::filesystem::path& path);

/// Throws InputError unless a trace can be written under that name.
void check_trace_name(const std::filesystem::path& path);

} // namespace tanzen
