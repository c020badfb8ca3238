// A text table's bytes, read once: how many records it holds, what its bytes are.
//
// A record ends at a line end outside quotes. A quote opens a quoted cell only where a cell begins,
// and closes it only before a separator, a line end or the end of the file; elsewhere it is a
// letter. Blank lines are no records.
//
// Cost: one pass, a few nanoseconds a byte; no allocation.
#pragma once
#include <cstddef>
#include <cstdint>

namespace ladder {

struct Scan {
  char separator;
  std::int64_t records = 0;     // lines that hold anything, the header included
  std::int64_t zero_bytes = 0;
  std::int64_t open_at = 0;     // the record in which the quote still open was opened
  bool in_quotes = false, maybe_closed = false;
  bool high = false;            // bytes beyond ASCII
  bool inner_quotes = false;    // quotes that neither open nor close a cell
  bool bad_utf8 = false;
  bool cell_start = true, line_empty = true;
  int follow = 0;               // continuation bytes still due

  explicit Scan(char sep) : separator(sep) {}

  void end_line() {
    if (!line_empty) ++records;
    line_empty = true;
    cell_start = true;
  }

  void utf8(unsigned char c) {
    if (follow) {
      if ((c & 0xC0) == 0x80) {
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
  }

  void read(const char* bytes, std::size_t n) {
    for (std::size_t i = 0; i < n; ++i) {
      const char c = bytes[i];
      if (c == 0) ++zero_bytes;
      if (static_cast<unsigned char>(c) >= 0x80 || follow) utf8(static_cast<unsigned char>(c));
      const bool line_end = c == '\n' || c == '\r';
      if (in_quotes) {
        if (maybe_closed) {
          maybe_closed = false;
          // A doubled quote stands for one; before other letters it is a letter too.
          if (c != separator && !line_end) {
            inner_quotes = true;
            continue;
          }
          in_quotes = false;
        } else {
          if (c == '"') maybe_closed = true;
          continue;
        }
      }
      if (line_end) {
        end_line();
      } else if (c == separator) {
        cell_start = true;
        line_empty = false;
      } else {
        if (c == '"') {
          if (cell_start) {
            in_quotes = true;
            open_at = records + 1;
          } else {
            inner_quotes = true;
          }
        }
        if (c != ' ' && c != '\t') {
          line_empty = false;
          cell_start = false;
        }
      }
    }
  }

  // True when the file ends inside a quoted cell.
  bool finish() {
    if (follow) bad_utf8 = true;
    const bool cut = in_quotes && !maybe_closed;
    in_quotes = false;
    end_line();
    return cut;
  }
};

}  // namespace ladder
