// A file's bytes in memory. Where the file is cut short while it is looked at, its lost pages read as
// zeros instead of ending the process, and that is told.
#pragma once
#include <atomic>
#include <cstddef>
#include <string>
#include <vector>

class Mapping {
 public:
  explicit Mapping(const std::string& path);
  ~Mapping();
  Mapping(const Mapping&) = delete;
  Mapping& operator=(const Mapping&) = delete;
  unsigned char* bytes = nullptr;
  std::size_t size = 0;
  bool fine = false;
  // Whether all of it is there still; what was lost within its last page reads as zeros unsaid.
  bool whole() const;

 private:
  std::string path_;
  unsigned long long device_ = 0, number_ = 0;  // by which the system knows the file
  const std::atomic<bool>* lost_ = nullptr;
  std::vector<unsigned char> read_;  // where it is not mapped
};

// How many mapped files lost pages while they were looked at, in this process.
int mappings_hurt();

// The sum of a file's bytes by blocks, as text.
std::string sum_of_bytes(const unsigned char* bytes, std::size_t size);
