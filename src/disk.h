// Writing files so that what went wrong is told.
#pragma once
#include <cstddef>
#include <functional>
#include <string>

// All bytes to an open file: empty, or why not.
std::string write_all(int to, const char* bytes, std::size_t size);

// A file of what `put` writes to it, flushed to the disk where it is to `rest` and is not added to:
// empty, or what went wrong.
std::string write_file(const std::string& path, bool append,
                       const std::function<std::string(int)>& put, bool rest = true);
