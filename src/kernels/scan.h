// A text table's bytes, read once.
//
// A record ends at a line end outside quotes. A quote opens a quoted cell only where a cell begins,
// and closes it only before a separator, a line end or the end of the file; elsewhere it is a
// letter, and two of them are one. Blank lines are no records.
//
// read_bytes   tells a sink what each byte is.
// Tally        how many records there are, and what the bytes are.
// Rewrite      the same table without quotes: what a plain reader would take for structure inside
//              cells (quotes, line breaks, separators) stands as marks, bytes that the file has not.
//
// Runs of plain letters and digits, most of any table, are taken at once.
//
// Cost: one pass, about a nanosecond a byte; no allocation but the rewritten bytes.
#pragma once
#include <cstddef>
#include <cstdint>
#include <string>

namespace ladder {

// What may stand between cells: one separator, or several while it is not known.
struct Separators {
  bool is[256] = {};
  bool plain[256] = {};         // what is only ever a letter: visible ASCII but quotes and these
  explicit Separators(const std::string& given) {
    for (const char c : given) is[static_cast<unsigned char>(c)] = true;
    for (int c = '!'; c <= '~'; ++c) plain[c] = !is[c] && c != '"';
  }
  bool has(char c) const { return is[static_cast<unsigned char>(c)]; }
  // Where a run of plain letters ends.
  std::size_t run(const char* bytes, std::size_t from, std::size_t n) const {
    while (from < n && plain[static_cast<unsigned char>(bytes[from])]) ++from;
    return from;
  }
};

// Where in a table a byte stands, from one block of bytes to the next.
struct Place {
  bool in_quotes = false, maybe_closed = false;
  bool cell_start = true, line_empty = true;
  bool after_quote = false;     // the letter before was a quote in a cell without quotes
};

// The sink has: letter(c), quote() (one that is a letter), blank(c) (before a cell's first letter),
// inside(c) (a separator or line break within quotes), open(), separator(c), line_end(c, empty);
// any(c) is told of each byte first, run(bytes, n) of letters in place of both.
template <class Sink>
void read_bytes(Place& at, const Separators& separators, const char* bytes, std::size_t n,
                Sink& sink) {
  for (std::size_t i = 0; i < n; ++i) {
    if (!at.maybe_closed) {
      const std::size_t end = separators.run(bytes, i, n);
      if (end > i) {
        sink.run(bytes + i, end - i);
        if (!at.in_quotes) at.cell_start = at.line_empty = at.after_quote = false;
        i = end;
        if (i == n) break;
      }
    }
    const char c = bytes[i];
    sink.any(c);
    const bool line_end = c == '\n' || c == '\r';
    const bool separator = separators.has(c);
    if (at.in_quotes) {
      if (!at.maybe_closed) {
        if (c == '"') at.maybe_closed = true;
        else if (line_end || separator) sink.inside(c);
        else sink.letter(c);
        continue;
      }
      at.maybe_closed = false;
      if (!separator && !line_end) {
        // A doubled quote stands for one; before other letters it is a letter too.
        sink.quote();
        if (c != '"') sink.letter(c);
        continue;
      }
      at.in_quotes = false;
    }
    if (line_end) {
      sink.line_end(c, at.line_empty);
      at.line_empty = at.cell_start = true;
    } else if (separator) {
      sink.separator(c);
      at.cell_start = true;
      at.line_empty = false;
    } else if (c == '"' && at.cell_start) {
      sink.open();
      at.in_quotes = true;
      at.cell_start = at.line_empty = false;
    } else if ((c == ' ' || c == '\t') && at.cell_start) {
      sink.blank(c);
    } else {
      const bool quote = c == '"';
      if (!quote) sink.letter(c);
      else if (!at.after_quote) sink.quote();
      at.after_quote = quote && !at.after_quote;
      at.cell_start = at.line_empty = false;
      continue;
    }
    at.after_quote = false;
  }
}

// Whether the bytes ended inside a quoted cell.
inline bool ends_inside(const Place& at) { return at.in_quotes && !at.maybe_closed; }

struct Tally {
  std::int64_t records = 0;     // lines that hold anything, the header included
  std::int64_t zero_bytes = 0;
  std::int64_t open_at = 0;     // the record in which the last quote that opens stands
  bool high = false;            // bytes beyond ASCII
  bool inner_quotes = false;    // quotes that neither open nor close a cell
  bool inner_breaks = false;    // line breaks within quotes
  bool line_feeds = false, returns = false;  // what ends records
  bool bad_utf8 = false;
  bool seen[32] = {};           // control characters
  int follow = 0;               // continuation bytes still due

  void any(char c) {
    const unsigned char u = static_cast<unsigned char>(c);
    if (u < 32) seen[u] = true;
    if (u >= 0x80 || follow) utf8(u);
    if (!c) ++zero_bytes;
  }
  // The first of them breaks off a letter of several bytes.
  void run(const char* letters, std::size_t) {
    if (follow) utf8(static_cast<unsigned char>(*letters));
  }
  void letter(char) {}
  void blank(char) {}
  void quote() { inner_quotes = true; }
  void inside(char c) { inner_breaks = inner_breaks || c == '\n' || c == '\r'; }
  void open() { open_at = records + 1; }
  void separator(char) {}
  void line_end(char c, bool empty) {
    if (!empty) ++records;
    (c == '\n' ? line_feeds : returns) = true;
  }
  void finish(const Place& at) {
    if (follow) bad_utf8 = true;
    if (!at.line_empty) ++records;
  }

 private:
  unsigned char low = 0x80, high_end = 0xBF;   // what the next continuation byte may be

  // Neither longer than need be, nor surrogates, nor beyond U+10FFFF (RFC 3629, section 4).
  void utf8(unsigned char c) {
    if (follow) {
      const bool fits = c >= low && c <= high_end;
      low = 0x80;
      high_end = 0xBF;
      if (fits) {
        --follow;
        return;
      }
      bad_utf8 = true;
      follow = 0;
    }
    if (c < 0x80) return;
    high = true;
    if (c >= 0xC2 && c <= 0xDF) follow = 1;
    else if (c >= 0xE0 && c <= 0xEF) follow = 2;
    else if (c >= 0xF0 && c <= 0xF4) follow = 3;
    else bad_utf8 = true;
    if (c == 0xE0) low = 0xA0;
    if (c == 0xED) high_end = 0x9F;
    if (c == 0xF0) low = 0x90;
    if (c == 0xF4) high_end = 0x8F;
  }
};

// Where records begin, blank lines among them, by byte from 0.
struct Starts {
  std::int64_t at = -1;
  std::int64_t first_of_line = 0;
  bool after_return = false;
  void (*found)(void*, std::int64_t) = nullptr;
  void* to = nullptr;

  void any(char) { ++at; }
  void run(const char*, std::size_t n) {
    at += static_cast<std::int64_t>(n);
    after_return = false;
  }
  void letter(char) { after_return = false; }
  void blank(char) { after_return = false; }
  void quote() { after_return = false; }
  void inside(char) {}
  void open() { after_return = false; }
  void separator(char) { after_return = false; }
  // A return and a line feed end one line.
  void line_end(char c, bool) {
    const bool second = c == '\n' && after_return;
    if (!second) found(to, first_of_line);
    first_of_line = at + 1;
    after_return = c == '\r';
  }
};

struct Marks {
  char quote, feed, carriage, separator, empty;
};

struct Rewrite {
  std::string& out;
  Marks marks;
  std::string held;             // blanks before a cell's first letter
  bool opened = false;          // a quoted cell that holds nothing yet

  Rewrite(std::string& to, Marks m) : out(to), marks(m) {}
  void put(char c) {
    if (!held.empty()) release();
    opened = false;
    out += c;
  }
  void release() {
    out += held;
    held.clear();
  }
  // A cell of two quotes is an empty text, one of nothing is missing.
  void end_cell() {
    if (opened) put(marks.empty);
    if (!held.empty()) release();
  }
  void any(char) {}
  void run(const char* letters, std::size_t n) {
    put(*letters);
    out.append(letters + 1, n - 1);
  }
  void letter(char c) { put(c); }
  void blank(char c) { held += c; }
  void quote() { put(marks.quote); }
  void inside(char c) {
    put(c == '\n' ? marks.feed : c == '\r' ? marks.carriage : marks.separator);
  }
  void open() {
    held.clear();
    opened = true;
  }
  void separator(char c) {
    end_cell();
    out += c;
  }
  void line_end(char, bool empty) {
    if (empty) held.clear();
    else end_cell();
    if (!empty) out += '\n';
  }
};

}  // namespace ladder
