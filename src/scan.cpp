// R's side of kernels/scan.h.
#include <Rcpp.h>
#include <fstream>
#include <vector>
#include "kernels/scan.h"

// What the bytes of a file are, read as a table with this separator, from byte `skip` on.
// [[Rcpp::export]]
Rcpp::List kernel_scan(std::string path, std::string separator, double skip) {
  ladder::Scan scan(separator[0]);
  std::ifstream file(path, std::ios::binary);
  if (!file) Rcpp::stop("the file cannot be opened");
  file.seekg(static_cast<std::streamoff>(skip));
  std::vector<char> block(1 << 20);
  while (file) {
    file.read(block.data(), static_cast<std::streamsize>(block.size()));
    scan.read(block.data(), static_cast<std::size_t>(file.gcount()));
    Rcpp::checkUserInterrupt();
  }
  const bool cut = scan.finish();
  return Rcpp::List::create(Rcpp::_["records"] = static_cast<double>(scan.records),
                            Rcpp::_["zero_bytes"] = static_cast<double>(scan.zero_bytes),
                            Rcpp::_["cut"] = cut,
                            Rcpp::_["open_at"] = static_cast<double>(scan.open_at),
                            Rcpp::_["high"] = scan.high, Rcpp::_["bad_utf8"] = scan.bad_utf8,
                            Rcpp::_["inner_quotes"] = scan.inner_quotes);
}
