#include "formula_syntax.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>
#include <utility>

namespace tanzen::detail {
namespace {

constexpr int deepest_nesting = 1000;
constexpr std::size_t longest_text = std::size_t{4} << 20U;

bool is_digit(char c) {
  return c >= '0' && c <= '9';
}

/// The whole UTF-8 character at a place, for messages.
std::string character_at(std::string_view text, std::size_t offset) {
  std::size_t end = offset + 1;
  while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U && end < offset + 4) ++end;
  const std::string shown(text.substr(offset, end - offset));
  const auto byte = static_cast<unsigned char>(shown.front());
  const bool unreadable = byte < 0x20 || byte == 0x7F || (byte >= 0x80 && (shown.size() == 1 || byte < 0xC2));
  return unreadable ? fmt::format("byte 0x{:02x}", byte) : fmt::format("'{}'", shown);
}

/// Characters that people paste from documents or bring from elsewhere, and what to write instead.
std::string_view replacement_for(std::string_view rest) {
  constexpr std::pair<std::string_view, std::string_view> pairs[] = {
      {"\u2212", "'-'"}, {"\u2013", "'-'"},  {"\u00d7", "'*'"},    {"\u00b7", "'*'"},
      {"\u00f7", "'/'"}, {"\u00b2", "'^2'"}, {"\u00b3", "'^3'"},   {"\u03c0", "'pi'"},
      {"{", "'('"},      {"}", "')'"},       {"\u221a", "'sqrt'"},
  };
  for (const auto& [found, written] : pairs) {
    if (rest.starts_with(found)) return written;
  }
  return {};
}

/// Recursive descent over the text, with one precedence level a function.
class Parser {
 public:
  explicit Parser(Syntax& syntax) : syntax_(syntax), text_(syntax.text) {}

  void parse_whole() {
    if (text_.size() > longest_text) {
      throw InputError(fmt::format("the formula has {} characters; the most is {}", text_.size(), longest_text));
    }
    skip_space();
    if (at_end()) fail("the formula is empty; write one like 'x^2 + 3*y^2'", position_);
    syntax_.root = sum_chain();
    skip_space();
    if (!at_end()) fail_after_operand();
  }

 private:
  [[noreturn]] void fail(const std::string& what, std::size_t offset) const { throw TextError(what, text_, offset); }

  [[nodiscard]] bool at_end() const { return position_ >= text_.size(); }
  [[nodiscard]] char next() const { return at_end() ? '\0' : text_[position_]; }

  void skip_space() {
    while (!at_end() && (next() == ' ' || next() == '\t' || next() == '\n' || next() == '\r')) ++position_;
  }

  bool take(std::string_view token) {
    skip_space();
    if (!text_.substr(position_).starts_with(token)) return false;
    position_ += token.size();
    return true;
  }

  [[nodiscard]] std::string found() const {
    if (at_end()) return "the formula ends";
    if (starts_name(next())) return fmt::format("found '{}'", clipped(name_at(position_), 40));
    return "found " + character_at(text_, position_);
  }

  [[nodiscard]] std::string_view name_at(std::size_t start) const {
    std::size_t end = start;
    while (end < text_.size() && continues_name(text_[end])) ++end;
    return text_.substr(start, end - start);
  }

  /// What stands where an operator or the end should stand.
  [[noreturn]] void fail_after_operand() {
    const char c = next();
    if (c == ')') fail("')' closes nothing that was opened", position_);
    if (c == '<' || c == '>' || c == '=' || c == '!') {
      fail("a comparison can stand only as the condition of if(condition, value, otherwise)", position_);
    }
    fail_on_character();
    if (starts_name(c) || c == '(' || is_digit(c) || c == '.') {
      fail(fmt::format("an operator is missing before {}; a product is written with '*'",
                       starts_name(c) ? fmt::format("'{}'", clipped(name_at(position_), 40))
                                      : character_at(text_, position_)),
           position_);
    }
    fail(fmt::format("expected an operator or the end of the formula, but {}", found()), position_);
  }

  /// Fails where the next character can stand nowhere in a formula.
  void fail_on_character() const {
    if (at_end()) return;
    const std::string_view rest = text_.substr(position_);
    if (const auto written = replacement_for(rest); !written.empty()) {
      fail(fmt::format("{} cannot stand in a formula; write {}", character_at(text_, position_), written), position_);
    }
    const auto byte = static_cast<unsigned char>(next());
    if (byte >= 0x80 || byte < 0x20 || std::string_view("\"#$%&'?@\\`|~;:").find(next()) != std::string_view::npos) {
      fail(fmt::format("{} cannot stand in a formula", character_at(text_, position_)), position_);
    }
  }

  SyntaxId add(SyntaxNode node, std::span<const SyntaxChild> children) {
    node.first_child = static_cast<std::uint32_t>(syntax_.children.size());
    node.children = static_cast<std::uint32_t>(children.size());
    syntax_.children.insert(syntax_.children.end(), children.begin(), children.end());
    syntax_.nodes.push_back(node);
    return static_cast<SyntaxId>(syntax_.nodes.size() - 1);
  }

  SyntaxId add(SyntaxNode node, std::initializer_list<SyntaxChild> children) {
    return add(node, std::span(children.begin(), children.size()));
  }

  SyntaxId chain(SyntaxKind kind, char direct, char inverse, SyntaxId (Parser::*operand)()) {
    skip_space();
    const std::size_t offset = position_;
    std::vector<SyntaxChild> links{{(this->*operand)(), false}};
    for (;;) {
      skip_space();
      if (next() != direct && next() != inverse) break;
      if (text_.substr(position_).starts_with("**"))
        fail("'**' is no operator; a power is written with '^'", position_);
      const bool is_inverse = next() == inverse;
      ++position_;
      links.push_back({(this->*operand)(), is_inverse});
    }
    if (links.size() == 1) return links.front().id;
    return add({.kind = kind, .offset = offset}, links);
  }

  SyntaxId sum_chain() {
    if (++depth_ > deepest_nesting) {
      fail(fmt::format("the formula is nested more than {} deep", deepest_nesting), position_);
    }
    const SyntaxId made = chain(SyntaxKind::chain_sum, '+', '-', &Parser::product_chain);
    --depth_;
    return made;
  }

  SyntaxId product_chain() { return chain(SyntaxKind::chain_mul, '*', '/', &Parser::signed_operand); }

  SyntaxId signed_operand() {
    skip_space();
    const std::size_t offset = position_;
    if (next() != '-' && next() != '+') return power();
    if (++depth_ > deepest_nesting) {
      fail(fmt::format("the formula is nested more than {} deep", deepest_nesting), position_);
    }
    const bool negative = next() == '-';
    ++position_;
    const SyntaxId operand = signed_operand();
    --depth_;
    return negative ? add({.kind = SyntaxKind::negative, .offset = offset}, {{operand}}) : operand;
  }

  SyntaxId power() {
    const std::size_t offset = position_;
    const SyntaxId base = primary();
    skip_space();
    if (next() != '^') return base;
    ++position_;
    if (++depth_ > deepest_nesting) {
      fail(fmt::format("the formula is nested more than {} deep", deepest_nesting), position_);
    }
    const SyntaxId exponent = signed_operand();
    --depth_;
    return add({.kind = SyntaxKind::power, .offset = offset}, {{base}, {exponent}});
  }

  SyntaxId primary() {
    skip_space();
    const char c = next();
    if (is_digit(c) || (c == '.' && position_ + 1 < text_.size() && is_digit(text_[position_ + 1]))) return number();
    if (starts_name(c)) return name();
    if (c == '(') {
      const std::size_t opened = position_++;
      const SyntaxId inside = sum_chain();
      close(')', opened);
      return inside;
    }
    fail_on_character();
    fail(fmt::format("expected a number, a name or '(', but {}", found()), position_);
  }

  void close(char closing, std::size_t opened) {
    skip_space();
    if (next() == closing) {
      ++position_;
      return;
    }
    if (at_end()) {
      const std::size_t column = 1 + character_count(text_.substr(0, opened));
      fail(fmt::format("missing '{}' for the '{}' at character {}", closing, text_[opened], column), position_);
    }
    if (next() == ',' && closing == ')' && !inside_call_)
      fail("a comma can stand only between a function's arguments", position_);
    if (next() == ')' || next() == ']' || next() == ',') {
      fail(fmt::format("expected '{}', but {}", closing, found()), position_);
    }
    fail_after_operand();
  }

  SyntaxId number() {
    const std::size_t offset = position_;
    double value = 0;
    const char* first = text_.data() + position_;
    // `1..n` is a range: the dots do not belong to the number.
    std::size_t limit = position_;
    while (limit < text_.size() && is_digit(text_[limit])) ++limit;
    if (!text_.substr(limit).starts_with("..")) limit = text_.size();
    const auto [end, error] = std::from_chars(first, text_.data() + limit, value);
    position_ += static_cast<std::size_t>(end - first);
    const std::string written(text_.substr(offset, std::min<std::size_t>(position_ - offset, 40)));
    if (error == std::errc::result_out_of_range) {
      fail(fmt::format("'{}' is outside the range of numbers", written), offset);
    }
    if (starts_name(next())) {
      const std::string name = clipped(name_at(position_), 40);
      fail(fmt::format("a number and a name need an operator between them: write {}*{}", written, name), position_);
    }
    if (next() == '(') fail(fmt::format("an operator is missing: write {}*(...)", written), position_);
    return add({.kind = SyntaxKind::number, .number = value, .offset = offset}, {});
  }

  SyntaxId name() {
    const std::size_t offset = position_;
    const std::string_view word = name_at(position_);
    position_ += word.size();
    skip_space();
    if (next() == '(') return call(word, offset);
    if (next() == '[') {
      const std::size_t opened = position_++;
      const bool outer = std::exchange(inside_call_, false);
      const SyntaxId index = sum_chain();
      inside_call_ = outer;
      close(']', opened);
      return add({.kind = SyntaxKind::element, .text = word, .offset = offset}, {{index}});
    }
    if (std::ranges::find(callable_names(), word) != callable_names().end()) {
      fail(fmt::format("the function '{}' needs its arguments: write {}(...)", word, word), position_);
    }
    return add({.kind = SyntaxKind::name, .text = word, .offset = offset}, {});
  }

  SyntaxId call(std::string_view word, std::size_t offset) {
    const std::size_t opened = position_++;
    const bool outer = std::exchange(inside_call_, true);
    SyntaxId made = 0;
    if (word == "sum" || word == "product") {
      made = series(word, offset, opened);
    } else if (word == "if") {
      made = conditional(offset, opened);
    } else if (const auto operation = find_function(word)) {
      made = function(word, *operation, offset, opened);
    } else if (word.size() == 1 || find_constant(word)) {
      fail(fmt::format("'{}' is no function; a product is written {}*(...)", word, word), offset);
    } else {
      fail(fmt::format("there is no function '{}'{}", clipped(word, 40), did_you_mean(word, callable_names())), offset);
    }
    inside_call_ = outer;
    return made;
  }

  SyntaxId function(std::string_view word, Operation operation, std::size_t offset, std::size_t opened) {
    std::vector<SyntaxChild> arguments;
    skip_space();
    if (next() != ')') {
      do arguments.push_back({sum_chain()});
      while (take(","));
    }
    close(')', opened);
    const int wanted = operand_count(operation);
    const bool any_number = operation == Operation::minimum || operation == Operation::maximum;
    const auto given = static_cast<int>(arguments.size());
    if (any_number ? given < 1 : given != wanted) {
      fail(fmt::format("{} takes {}{}, not {}", word, any_number ? "at least " : "",
                       counted(any_number ? 1 : wanted, "argument"), given),
           offset);
    }
    return add({.kind = SyntaxKind::call, .operation = operation, .text = word, .offset = offset}, arguments);
  }

  void expect_comma(std::string_view word, std::string_view form) {
    if (!take(",")) fail(fmt::format("expected ',' in {} ({}), but {}", word, form, found()), position_);
  }

  SyntaxId conditional(std::size_t offset, std::size_t opened) {
    constexpr std::string_view form = "if(condition, value, otherwise)";
    skip_space();
    const std::size_t start = position_;
    const SyntaxId left = sum_chain();
    const Relation relation = read_relation();
    const SyntaxId right = sum_chain();
    const SyntaxId condition =
        add({.kind = SyntaxKind::comparison, .relation = relation, .offset = start}, {{left}, {right}});
    expect_comma("if", form);
    const SyntaxId held = sum_chain();
    expect_comma("if", form);
    const SyntaxId otherwise = sum_chain();
    close(')', opened);
    return add({.kind = SyntaxKind::condition, .offset = offset}, {{condition}, {held}, {otherwise}});
  }

  Relation read_relation() {
    constexpr std::pair<std::string_view, Relation> known[] = {
        {"<=", Relation::less_equal}, {">=", Relation::greater_equal}, {"==", Relation::equal},
        {"!=", Relation::not_equal},  {"<", Relation::less},           {">", Relation::greater},
    };
    for (const auto& [token, relation] : known) {
      if (take(token)) return relation;
    }
    if (next() == '=') fail("to compare for equality write '=='", position_);
    fail(fmt::format("expected a comparison (<, <=, >, >=, ==, !=) as the condition of if, but {}", found()),
         position_);
  }

  SyntaxId series(std::string_view word, std::size_t offset, std::size_t opened) {
    const std::string form = fmt::format("{}(i = 1..n, ...)", word);
    skip_space();
    if (!starts_name(next()))
      fail(fmt::format("expected the name of an index, as in {}, but {}", form, found()), position_);
    const std::string_view index = name_at(position_);
    const std::size_t index_offset = position_;
    position_ += index.size();
    if (!take("=")) fail(fmt::format("expected '=' after the index, as in {}, but {}", form, found()), position_);
    if (find_constant(index) || index == dimension_name) {
      fail(fmt::format("'{}' has a meaning of its own and cannot be an index", index), index_offset);
    }
    const SyntaxId first = sum_chain();
    if (!take(".."))
      fail(fmt::format("expected '..' between the ends of the index, as in {}, but {}", form, found()), position_);
    const SyntaxId last = sum_chain();
    expect_comma(word, form);
    const SyntaxId body = sum_chain();
    close(')', opened);
    const SyntaxKind kind = word == "sum" ? SyntaxKind::sum : SyntaxKind::product;
    return add({.kind = kind, .text = index, .offset = offset}, {{first}, {last}, {body}});
  }

  Syntax& syntax_;
  std::string_view text_;
  std::size_t position_ = 0;
  int depth_ = 0;
  bool inside_call_ = false;
};

} // namespace

void parse(Syntax& syntax) {
  Parser(syntax).parse_whole();
}

} // namespace tanzen::detail
