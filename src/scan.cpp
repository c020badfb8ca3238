// R's side of kernels/scan.h.
#include <Rcpp.h>
#include <cstdio>
#include <fstream>
#include <vector>
#include "kernels/scan.h"

namespace {

// A file's bytes from `skip` on, block by block.
template <class Read>
void read_blocks(const std::string& path, double skip, Read read) {
  std::ifstream file(path, std::ios::binary);
  if (!file) Rcpp::stop("the file cannot be opened");
  file.seekg(static_cast<std::streamoff>(skip));
  std::vector<char> block(1 << 20);
  while (file) {
    file.read(block.data(), static_cast<std::streamsize>(block.size()));
    read(block.data(), static_cast<std::size_t>(file.gcount()));
    Rcpp::checkUserInterrupt();
  }
}

}  // namespace

// What the bytes of a file are, read as a table with this separator, from byte `skip` on; `free` are
// control characters that it has not.
// [[Rcpp::export(rng = false)]]
Rcpp::List kernel_scan(std::string path, std::string separator, double skip) {
  const ladder::Separators separators(separator);
  ladder::Place at;
  ladder::Tally tally;
  read_blocks(path, skip, [&](const char* bytes, std::size_t n) {
    ladder::read_bytes(at, separators, bytes, n, tally);
  });
  tally.finish(at);
  Rcpp::IntegerVector free;
  for (int c = 1; c < 32; ++c)
    if (!tally.seen[c] && c != '\t' && c != '\n' && c != '\r') free.push_back(c);
  return Rcpp::List::create(
      Rcpp::_["records"] = static_cast<double>(tally.records),
      Rcpp::_["zero_bytes"] = static_cast<double>(tally.zero_bytes),
      Rcpp::_["cut"] = ladder::ends_inside(at),
      Rcpp::_["open_at"] = static_cast<double>(tally.open_at), Rcpp::_["high"] = tally.high,
      Rcpp::_["bad_utf8"] = tally.bad_utf8, Rcpp::_["inner_quotes"] = tally.inner_quotes,
      Rcpp::_["inner_breaks"] = tally.inner_breaks,
      Rcpp::_["only_returns"] = tally.returns && !tally.line_feeds, Rcpp::_["free"] = free);
}

// The first bytes of a file as records: the byte that each begins at, from 0. Whatever the separator
// is, a quote opens and closes beside one of these.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kernel_records(Rcpp::RawVector bytes, std::string separators) {
  std::vector<double> starts;
  ladder::Starts sink;
  sink.to = &starts;
  sink.found = [](void* to, std::int64_t at) {
    static_cast<std::vector<double>*>(to)->push_back(static_cast<double>(at));
  };
  ladder::Place at;
  ladder::read_bytes(at, ladder::Separators(separators),
                     reinterpret_cast<const char*>(bytes.begin()),
                     static_cast<std::size_t>(bytes.size()), sink);
  if (sink.first_of_line < bytes.size()) starts.push_back(static_cast<double>(sink.first_of_line));
  return Rcpp::wrap(starts);
}

// The table written anew without quotes, from byte `skip` on; `marks` are five control characters for
// quotes, line feeds, returns and separators within cells, and cells of two quotes. Gives what could not be written, if so.
// [[Rcpp::export(rng = false)]]
bool kernel_rewrite(std::string path, std::string to, std::string separator, double skip,
                    Rcpp::IntegerVector marks) {
  const ladder::Separators separators(separator);
  std::ofstream file(to, std::ios::binary);
  std::string out;
  ladder::Place at;
  ladder::Rewrite sink(out, {static_cast<char>(marks[0]), static_cast<char>(marks[1]),
                             static_cast<char>(marks[2]), static_cast<char>(marks[3]),
                             static_cast<char>(marks[4])});
  read_blocks(path, skip, [&](const char* bytes, std::size_t n) {
    ladder::read_bytes(at, separators, bytes, n, sink);
    file.write(out.data(), static_cast<std::streamsize>(out.size()));
    out.clear();
  });
  if (!at.line_empty) sink.line_end('\n', false);
  file.write(out.data(), static_cast<std::streamsize>(out.size()));
  file.close();
  return !file.fail();
}
