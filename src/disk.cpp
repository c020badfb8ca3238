// What R does not tell of writing: whether all came to rest on the disk, which file a path is, and
// whether a folder's maker still lives.
#include <Rcpp.h>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <string>
#include <sys/stat.h>
#include "disk.h"
#ifdef _WIN32
#include <filesystem>
#include <io.h>
#include <share.h>
#else
#include <sys/file.h>
#include <sys/time.h>
#include <unistd.h>
#endif

namespace {

#ifdef _WIN32
const int plain_open = O_BINARY;
bool settled(int file) { return ::_commit(file) == 0 || errno == EBADF; }
#else
const int plain_open = O_CLOEXEC;
// Devices and pipes cannot be flushed, and need not be.
bool settled(int file) { return ::fsync(file) == 0 || errno == EINVAL || errno == EROFS; }
#endif

std::string why() { return std::strerror(errno); }

}  // namespace

std::string write_all(int to, const char* bytes, std::size_t size) {
  while (size > 0) {
    const auto done = ::write(to, bytes, size);
    if (done < 0 && errno == EINTR) continue;
    if (done < 0) return why();
    if (done == 0) return "nothing more can be written";
    bytes += done;
    size -= static_cast<std::size_t>(done);
  }
  return "";
}

std::string write_file(const std::string& path, bool append,
                       const std::function<std::string(int)>& put, bool rest) {
  const int mode = O_WRONLY | O_CREAT | plain_open | (append ? O_APPEND : O_TRUNC);
  const int file = ::open(path.c_str(), mode, 0666);
  if (file < 0) return why();
  std::string wrong = put(file);
  // A log is told line by line, and waiting for the disk each time would hold everything up.
  if (wrong.empty() && rest && !append && !settled(file)) wrong = why();
  if (::close(file) != 0 && wrong.empty()) wrong = why();
  return wrong;
}

// Bytes to a file, flushed to the disk: empty, or what went wrong.
// [[Rcpp::export(rng = false)]]
std::string kernel_write(std::string path, Rcpp::RawVector bytes, bool append) {
  return write_file(path, append, [&](int file) {
    return write_all(file, reinterpret_cast<const char*>(bytes.begin()),
                     static_cast<std::size_t>(bytes.size()));
  });
}

// A file or folder that something else wrote, brought to rest: empty, or what went wrong.
// [[Rcpp::export(rng = false)]]
std::string kernel_settle(std::string path) {
  const int file = ::open(path.c_str(), O_RDONLY | plain_open);
  if (file < 0) return why();
  std::string wrong = settled(file) ? "" : why();
  if (::close(file) != 0 && wrong.empty()) wrong = why();
  return wrong;
}

// Which of the paths are this very file, by whatever name.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector kernel_same_file(std::string path, std::vector<std::string> others) {
  Rcpp::LogicalVector same(others.size(), FALSE);
#ifdef _WIN32
  std::error_code wrong;
  for (size_t i = 0; i < others.size(); i++)
    same[i] = std::filesystem::equivalent(path, others[i], wrong);
#else
  struct stat own, other;
  if (::stat(path.c_str(), &own) != 0) return same;
  for (size_t i = 0; i < others.size(); i++)
    if (::stat(others[i].c_str(), &other) == 0)
      same[i] = own.st_dev == other.st_dev && own.st_ino == other.st_ino;
#endif
  return same;
}

// Locks a file, made where it is not there, for as long as this process lives; -1 where another
// process holds it.
// [[Rcpp::export(rng = false)]]
int kernel_hold(std::string path) {
#ifdef _WIN32
  return ::_sopen(path.c_str(), O_RDWR | O_CREAT | O_BINARY, _SH_DENYRW, _S_IREAD | _S_IWRITE);
#else
  const int file = ::open(path.c_str(), O_RDWR | O_CREAT | plain_open | O_NOFOLLOW, 0600);
  if (file < 0) return -1;
  if (::flock(file, LOCK_EX | LOCK_NB) == 0) return file;
  ::close(file);
  return -1;
#endif
}

// [[Rcpp::export(rng = false)]]
void kernel_let_go(int held) {
  if (held >= 0) ::close(held);
}

// Whether a path is our own, a plain file or folder and no link: the owner is asked, since others
// may write where all temporary files are.
// [[Rcpp::export(rng = false)]]
bool kernel_own(std::string path, bool folder) {
  struct stat found;
#ifdef _WIN32
  if (::stat(path.c_str(), &found) != 0) return false;
#else
  if (::lstat(path.c_str(), &found) != 0 || found.st_uid != ::geteuid()) return false;
#endif
  return folder ? S_ISDIR(found.st_mode) : S_ISREG(found.st_mode);
}

// Whether a path, links followed, is a file and no folder, pipe or device.
// [[Rcpp::export(rng = false)]]
bool kernel_regular(std::string path) {
  struct stat found;
  return ::stat(path.c_str(), &found) == 0 && S_ISREG(found.st_mode);
}

// What became of standard output: empty, or why it was not all written. R looks at none of it.
// [[Rcpp::export(rng = false)]]
std::string kernel_stdout() {
  if (std::fflush(stdout) == 0 && !std::ferror(stdout)) return "";
  // The reason is gone by now; one more sign meets it again.
  const std::string wrong = write_all(1, "\n", 1);
  if (wrong.empty()) return "not all could be written";
  return errno == EPIPE ? "closed" : wrong;
}

// A process that writes more than it may, or to a reader that has gone, is told so by the write, and
// neither killed nor stopped wherever it is.
// [[Rcpp::export(rng = false)]]
void kernel_outlive_writes() {
#ifndef _WIN32
  std::signal(SIGXFSZ, SIG_IGN);
  std::signal(SIGPIPE, SIG_IGN);
#endif
}

// What tells a file or folder from all others on this machine; empty where there is none. A copy, or
// one unpacked from an archive, has another.
// [[Rcpp::export(rng = false)]]
std::string kernel_identity(std::string path) {
  struct stat found;
  if (::stat(path.c_str(), &found) != 0) return "";
  return std::to_string(found.st_dev) + ":" + std::to_string(found.st_ino);
}

namespace {

#ifndef _WIN32
void (*usual_interrupt)(int) = nullptr;
volatile std::sig_atomic_t hurried = 1;

// Nothing that is being written is in its place yet, so that ending here leaves all as it was.
void end_now(int) {
  const char text[] = "longladder: stopped\n";
  if (::write(2, text, sizeof text - 1)) {}
  ::_exit(1);
}

void interrupted(int signal) {
  if (usual_interrupt) usual_interrupt(signal);
  if (!hurried) return;
  const struct itimerval soon = {{0, 0}, {0, 800000}};
  ::setitimer(ITIMER_REAL, &soon, nullptr);
}
#endif

}  // namespace

// Within one step of R's, such as sorting millions of names, an interrupt waits for its end. While
// `on`, the process ends less than a second after one that R has not come to by itself.
// [[Rcpp::export(rng = false)]]
void kernel_interrupts(bool on) {
#ifndef _WIN32
  ::alarm(0);
  if (on && !usual_interrupt) {
    usual_interrupt = std::signal(SIGINT, interrupted);
    std::signal(SIGALRM, end_now);
  } else if (!on && usual_interrupt) {
    std::signal(SIGINT, usual_interrupt);
    std::signal(SIGALRM, SIG_DFL);
    usual_interrupt = nullptr;
  }
#endif
}

// Whether an interrupt ends the process after a second; a driver that takes its statement back from
// a server is given the time for it.
// [[Rcpp::export(rng = false)]]
void kernel_hurried(bool on) {
#ifndef _WIN32
  hurried = on;
#endif
}
