#pragma once

#include "tanzen/problem/definition.hpp"
#include "tanzen/problem/function.hpp"

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// An objective that is another program. It is started once and asked again and again: each request is one line of JSON
/// on its standard input, `{"id": 7, "point": [0.5, -1]}`, and each answer one line on its standard output, `{"id": 7,
/// "value": 3.25}`, `{"id": 7, "value": null}` where the objective has no value there, or `{"id": 7, "error": "why"}`.
/// With several objectives `"objectives": [..]` stands in place of the value; `"constraints": [..]` and `"residuals":
/// [..]` stand beside it where the problem has them. Answers to other ids are passed over. The program ends when its
/// input does.
///
/// A crash, no answer within the timeout, an answer that is none of these, and an error are each a BrokenEvaluation: a
/// run counts it and goes on. After a crash or a timeout the program is started anew, at most `restarts` times in one
/// run; then evaluations throw std::runtime_error, which ends the run. A run never waits longer than the timeout for
/// one value. At most `copies` of the program run at once; with more than one, several threads may ask at once.
///
/// Nothing is started before the first value is asked for; `at_first_start` is called then. Each copy is a process
/// group of its own that ends with this process, however that ends. A run that is over while the program thinks, by its
/// limit of time or because its user wants it, does not wait for the answer.
///
/// Throws InputError for a description that cannot be, and std::runtime_error where the program cannot be started.
[[nodiscard]] FunctionPointer make_external(Index dimension, const PartCounts& parts, const ProgramDefinition& program,
                                            std::function<void(const ProgramDefinition&)> at_first_start);
[[nodiscard]] FunctionPointer make_external(Index dimension, const PartCounts& parts, const ProgramDefinition& program);

/// The command as its words: cut at spaces, with quotes around what belongs together.
[[nodiscard]] std::vector<std::string> command_words(std::string_view text);

} // namespace tanzen
