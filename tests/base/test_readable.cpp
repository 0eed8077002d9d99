#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"

#include <doctest/doctest.h>
#include <rapidcheck.h>

#include <string>

using namespace tanzen;

TEST_SUITE("readable texts") {
  TEST_CASE("a name of letters, digits, signs and any language is taken as it is") {
    for (const char* name : {"bfgs", "step 50%", "5 %g", "f''(x)", "Glasur für Ton", "陶芸", "a\\b", "`x`", "$HOME",
                             "é", "\xF0\x9F\x8F\xBA"})
      CHECK_NOTHROW(check_readable(name, "the label"));
    CHECK_NOTHROW(check_readable("", "the label"));
  }

  TEST_CASE("what a terminal or another program would obey is refused, with the character and what it names") {
    struct Row {
      std::string text;
      const char* says;
    };
    for (const Row& row :
         {Row{"a\nb", "U+000A"}, Row{"a\tb", "U+0009"}, Row{"\x1b[2J", "U+001B"}, Row{"a\x7f", "U+007F"},
          Row{"a\xC2\x85", "U+0085"}, Row{"a\xE2\x80\xA8z", "U+2028"}, Row{"a\xE2\x80\xAEz", "U+202E"},
          Row{"\xE2\x81\xA6", "U+2066"}, Row{std::string("a\0b", 3), "U+0000"}}) {
      CAPTURE(row.says);
      CHECK_THROWS_WITH_AS(check_readable(row.text, "the label of a method"), doctest::Contains(row.says), InputError);
      CHECK_THROWS_WITH_AS(check_readable(row.text, "the label of a method"),
                           doctest::Contains("the label of a method"), InputError);
    }
  }

  TEST_CASE("bytes that are no UTF-8 are refused, with their place") {
    for (const char* text :
         {"ab\xff", "ab\xC0\xAF", "ab\xE0\x80\xAF", "ab\xED\xA0\x80", "ab\xF4\x90\x80\x80", "ab\xE2\x82", "ab\x80"}) {
      CHECK_THROWS_WITH_AS(check_readable(text, "the name"), doctest::Contains("its byte 3 is 0x"), InputError);
    }
  }

  TEST_CASE("what is shown keeps its lines, and spells the rest out") {
    CHECK(readable("two\nlines\tand a tab") == "two\nlines\tand a tab");
    CHECK(readable_line("two\nlines") == "two\\u{a}lines");
    CHECK(readable("\x1b[31mred") == "\\u{1b}[31mred");
    CHECK(readable("caf\xE9") == "caf\\x{e9}");
    CHECK(readable("Glasur für Ton") == "Glasur für Ton");
  }

  TEST_CASE("whatever bytes come in, what is shown is a name that is taken") {
    rc::check("readable_line makes a readable name", [](const std::string& bytes) {
      const std::string shown = readable_line(bytes);
      check_readable(shown, "the text");
      RC_ASSERT(readable_line(shown) == shown);
    });
  }
}

TEST_SUITE("lines of text") {
  TEST_CASE("a text is cut at blanks, and keeps the blanks inside its lines") {
    const std::vector<std::string> whole{"a  short line"};
    CHECK(wrapped("a  short line", 20) == whole);
    const std::vector<std::string> cut{"the kiln is", "cooling down"};
    CHECK(wrapped("the kiln is cooling down", 12) == cut);
    CHECK(wrapped("", 10).empty());
    CHECK(wrapped("   ", 10).empty());
  }

  TEST_CASE("a word that is too long has a line of its own") {
    const std::vector<std::string> cut{"a", "porcelainporcelain", "pot"};
    CHECK(wrapped("a porcelainporcelain pot", 8) == cut);
  }

  TEST_CASE("characters are counted, not bytes") {
    const std::vector<std::string> cut{"äöü äöü", "äöü"};
    CHECK(wrapped("äöü äöü äöü", 7) == cut);
  }

  TEST_CASE("no line is wider than asked unless it is one word, and no word is lost") {
    rc::check("wrapped keeps words and width", [](const std::vector<std::uint8_t>& lengths) {
      std::string text;
      std::size_t letters = 0;
      for (const std::uint8_t length : lengths) {
        text += std::string(length % 12U, 'k') + " ";
        letters += length % 12U;
      }
      const std::size_t width = *rc::gen::inRange<std::size_t>(1, 30);
      std::size_t kept = 0;
      for (const std::string& line : wrapped(text, width)) {
        kept += static_cast<std::size_t>(std::ranges::count(line, 'k'));
        RC_ASSERT(line.size() <= width || line.find(' ') == std::string::npos);
        RC_ASSERT(!line.empty() && line.front() != ' ' && line.back() != ' ');
      }
      RC_ASSERT(kept == letters);
    });
  }
}
