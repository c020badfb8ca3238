// Files mapped into memory, and what becomes of one that is cut short meanwhile: the system then sends
// SIGBUS to whoever looks at a page that is gone. Zeros are put there, and the loss is counted.
#include "mapping.h"
#include <Rcpp.h>
#include <atomic>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <mutex>
#include "kernels/checksum.h"
#include "threads.h"
#ifndef _WIN32
#include <fcntl.h>
#include <signal.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>
#endif

namespace {

std::atomic<int> hurt_count{0};

#ifndef _WIN32
// The mapped stretches that the handler knows; a file beyond so many is read.
struct Stretch {
  std::atomic<unsigned char*> from{nullptr};
  std::atomic<std::size_t> size{0};
  std::atomic<bool> lost{false};
};
constexpr std::size_t most_stretches = 4096;
Stretch stretches[most_stretches];
std::mutex stretches_lock;
struct sigaction handled_before;
std::uintptr_t page_size = 4096;

// Only what a signal handler may do: no lock, no memory but the system's.
void on_lost_page(int signal, siginfo_t* about, void* context) {
  const auto at = reinterpret_cast<std::uintptr_t>(about->si_addr);
  for (Stretch& one : stretches) {
    const auto from = reinterpret_cast<std::uintptr_t>(one.from.load());
    const std::uintptr_t end = (from + one.size.load() + page_size - 1) & ~(page_size - 1);
    if (!from || at < from || at >= end) continue;
    const std::uintptr_t page = at & ~(page_size - 1);
    if (::mmap(reinterpret_cast<void*>(page), end - page, PROT_READ | PROT_WRITE,
               MAP_PRIVATE | MAP_ANONYMOUS | MAP_FIXED, -1, 0) == MAP_FAILED) break;
    one.lost.store(true);
    hurt_count.fetch_add(1);
    return;
  }
  // None of ours: as it was before.
  if (handled_before.sa_flags & SA_SIGINFO) return handled_before.sa_sigaction(signal, about, context);
  if (handled_before.sa_handler != SIG_DFL && handled_before.sa_handler != SIG_IGN)
    return handled_before.sa_handler(signal);
  ::signal(SIGBUS, SIG_DFL);
}

const std::atomic<bool>* know_stretch(unsigned char* from, std::size_t size) {
  const std::lock_guard<std::mutex> held(stretches_lock);
  for (Stretch& one : stretches) {
    if (one.from.load()) continue;
    one.size.store(size);
    one.lost.store(false);
    one.from.store(from);
    return &one.lost;
  }
  return nullptr;
}

void forget_stretch(unsigned char* from) {
  const std::lock_guard<std::mutex> held(stretches_lock);
  for (Stretch& one : stretches)
    if (one.from.load() == from) one.from.store(nullptr);
}
#endif

bool read_whole(const std::string& path, std::vector<unsigned char>& out) {
  std::FILE* file = std::fopen(path.c_str(), "rb");
  if (!file) return false;
  unsigned char block[65536];
  for (std::size_t n; (n = std::fread(block, 1, sizeof block, file)) > 0;)
    out.insert(out.end(), block, block + n);
  const bool fine = !std::ferror(file);
  std::fclose(file);
  return fine;
}

}  // namespace

int mappings_hurt() { return hurt_count.load(); }

Mapping::Mapping(const std::string& path) : path_(path) {
#ifndef _WIN32
  const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  if (file < 0) return;
  struct stat about;
  const bool regular = ::fstat(file, &about) == 0 && S_ISREG(about.st_mode);
  device_ = about.st_dev;
  number_ = about.st_ino;
  size = regular ? static_cast<std::size_t>(about.st_size) : 0;
  fine = regular && size == 0;
  void* at = size > 0 ? ::mmap(nullptr, size, PROT_READ | PROT_WRITE, MAP_PRIVATE, file, 0) : MAP_FAILED;
  ::close(file);
  if (at != MAP_FAILED) {
    bytes = static_cast<unsigned char*>(at);
    lost_ = know_stretch(bytes, size);
    fine = lost_ != nullptr;
    if (!fine) ::munmap(at, size);
  }
  // A pipe would be read for ever.
  if (fine || !regular) return;
#endif
  fine = read_whole(path, read_);
  bytes = read_.data();
  size = read_.size();
}

Mapping::~Mapping() {
#ifndef _WIN32
  if (!bytes || !read_.empty()) return;
  forget_stretch(bytes);
  ::munmap(bytes, size);
#endif
}

bool Mapping::whole() const {
#ifndef _WIN32
  if (!lost_) return true;
  if (lost_->load()) return false;
  // A file that has no name any more, or whose name is another's now, stays as it was.
  struct stat about;
  if (::stat(path_.c_str(), &about) != 0) return true;
  if (about.st_dev != device_ || about.st_ino != number_) return true;
  return static_cast<std::size_t>(about.st_size) >= size;
#else
  return true;
#endif
}

std::string sum_of_bytes(const unsigned char* bytes, std::size_t size) {
  std::vector<std::uint64_t> sums(ladder::checksum_blocks(size));
  const int threads = size < 8 * ladder::checksum_block ? 1 : thread_limit();
  std::atomic<std::size_t> next{0};
  at_once(threads, [&](int) {
    for (std::size_t k; (k = next.fetch_add(1)) < sums.size();)
      sums[k] = ladder::block_checksum(bytes, size, k);
  });
  const std::uint64_t sum = ladder::checksum(reinterpret_cast<const unsigned char*>(sums.data()),
                                             8 * sums.size(), size);
  char text[17];
  std::snprintf(text, sizeof text, "%016llx", static_cast<unsigned long long>(sum));
  return text;
}

// [[Rcpp::init]]
void init_mapping(DllInfo* dll) {
  (void)dll;
#ifndef _WIN32
  page_size = static_cast<std::uintptr_t>(::sysconf(_SC_PAGESIZE));
  struct sigaction own = {};
  own.sa_sigaction = on_lost_page;
  own.sa_flags = SA_SIGINFO | SA_ONSTACK | SA_NODEFER;
  sigemptyset(&own.sa_mask);
  ::sigaction(SIGBUS, &own, &handled_before);
#endif
}

// The checksum of a file, by blocks (see kernels/checksum.h); empty where it cannot be read.
// [[Rcpp::export(rng = false)]]
std::string kernel_sum_file(std::string path) {
  const Mapping map(path);
  return map.fine ? sum_of_bytes(map.bytes, map.size) : "";
}

// That of bytes.
// [[Rcpp::export(rng = false)]]
std::string kernel_sum_bytes(Rcpp::RawVector bytes) {
  return sum_of_bytes(RAW(bytes), static_cast<std::size_t>(bytes.size()));
}

// How many mapped files lost pages while they were looked at.
// [[Rcpp::export(rng = false)]]
int kernel_mappings_hurt() { return mappings_hurt(); }

// What tells a file from a changed one without reading it all: list(size, time, changed, number,
// sample). Times are in seconds, `number` is that by which the system knows the file, `sample` the
// checksum of its first and last 64 KB and of as many blocks of 4 KB between as `blocks`, at places
// that hang on its size. NULL where there is none.
// [[Rcpp::export(rng = false)]]
SEXP kernel_file_state(std::string path, int blocks) {
#ifdef _WIN32
  struct _stat64 about;
  if (::_stat64(path.c_str(), &about) != 0) return R_NilValue;
  const double time = static_cast<double>(about.st_mtime), changed = static_cast<double>(about.st_ctime);
#else
  struct stat about;
  if (::stat(path.c_str(), &about) != 0) return R_NilValue;
#ifdef __APPLE__
  const timespec m = about.st_mtimespec, c = about.st_ctimespec;
#else
  const timespec m = about.st_mtim, c = about.st_ctim;
#endif
  const double time = m.tv_sec + 1e-9 * m.tv_nsec, changed = c.tv_sec + 1e-9 * c.tv_nsec;
#endif
  const auto size = static_cast<std::uint64_t>(about.st_size);
  std::FILE* file = std::fopen(path.c_str(), "rb");
  if (!file) return R_NilValue;
  constexpr std::uint64_t end_size = 65536, block_size = 4096;
  std::vector<unsigned char> held;
  const auto take = [&](std::uint64_t from, std::uint64_t many) {
    const std::size_t before = held.size();
    held.resize(before + static_cast<std::size_t>(many));
#ifdef _WIN32
    const bool there = ::_fseeki64(file, static_cast<long long>(from), SEEK_SET) == 0;
#else
    const bool there = ::fseeko(file, static_cast<off_t>(from), SEEK_SET) == 0;
#endif
    held.resize(before + (there ? std::fread(&held[before], 1, static_cast<std::size_t>(many), file) : 0));
  };
  take(0, end_size);
  if (size > end_size) take(size - std::min(size, end_size), end_size);
  if (size > 2 * end_size) {
    std::uint64_t state = size;
    for (int i = 0; i < blocks; ++i) {
      state = ladder::checksum(reinterpret_cast<const unsigned char*>(&state), sizeof state);
      take(state % (size - block_size), block_size);
    }
  }
  std::fclose(file);
  return Rcpp::List::create(
    Rcpp::_["size"] = static_cast<double>(size), Rcpp::_["time"] = time, Rcpp::_["changed"] = changed,
    Rcpp::_["number"] = std::to_string(static_cast<unsigned long long>(about.st_ino)),
    Rcpp::_["sample"] = sum_of_bytes(held.data(), held.size()));
}
