// A checksum of bytes by blocks of a mebibyte, so that threads can share a long file. Within a block
// eight running sums of 64 bits, turned after each word, and the sums of those (after J. G. Fletcher,
// "An arithmetic checksum for serial transmissions", IEEE Trans. Commun. 30(1), 1982): a change of one
// word always shows in its running sum. What they come to goes through XXH64 of Yann Collet (xxHash,
// "XXH64 algorithm description", BSD licence). It finds what went wrong by accident; who may write
// the sums can forge them.
//
// Assumes a machine with the smallest byte first. Cost: one pass, as fast as memory is read.
#pragma once
#include <cstddef>
#include <cstdint>
#include <cstring>

namespace ladder {

constexpr std::size_t checksum_block = 1u << 20;

constexpr std::uint64_t xx1 = 0x9E3779B185EBCA87ull, xx2 = 0xC2B2AE3D27D4EB4Full,
                        xx3 = 0x165667B19E3779F9ull, xx4 = 0x85EBCA77C2B2AE63ull,
                        xx5 = 0x27D4EB2F165667C5ull;

inline std::uint64_t turn_left(std::uint64_t x, int by) { return (x << by) | (x >> (64 - by)); }

template <class Number>
Number read_number(const unsigned char* at) {
  Number out;
  std::memcpy(&out, at, sizeof out);
  return out;
}

inline std::uint64_t xx_round(std::uint64_t sum, std::uint64_t input) {
  return turn_left(sum + input * xx2, 31) * xx1;
}

inline std::uint64_t xx_merge(std::uint64_t sum, std::uint64_t lane) {
  return (sum ^ xx_round(0, lane)) * xx1 + xx4;
}

inline std::uint64_t checksum(const unsigned char* at, std::size_t size, std::uint64_t seed = 0) {
  const unsigned char* end = at + size;
  std::uint64_t sum = seed + xx5;
  if (size >= 32) {
    std::uint64_t lane[4] = {seed + xx1 + xx2, seed + xx2, seed, seed - xx1};
    for (; end - at >= 32; at += 32)
      for (int k = 0; k < 4; ++k) lane[k] = xx_round(lane[k], read_number<std::uint64_t>(at + 8 * k));
    sum = turn_left(lane[0], 1) + turn_left(lane[1], 7) + turn_left(lane[2], 12) +
          turn_left(lane[3], 18);
    for (std::uint64_t one : lane) sum = xx_merge(sum, one);
  }
  sum += size;
  for (; end - at >= 8; at += 8)
    sum = turn_left(sum ^ xx_round(0, read_number<std::uint64_t>(at)), 27) * xx1 + xx4;
  if (end - at >= 4) {
    sum = turn_left(sum ^ read_number<std::uint32_t>(at) * xx1, 23) * xx2 + xx3;
    at += 4;
  }
  for (; at < end; ++at) sum = turn_left(sum ^ *at * xx5, 11) * xx1;
  sum = (sum ^ (sum >> 33)) * xx2;
  sum = (sum ^ (sum >> 29)) * xx3;
  return sum ^ (sum >> 32);
}

inline std::size_t checksum_blocks(std::size_t size) {
  return (size + checksum_block - 1) / checksum_block;
}

// That of one block of many bytes.
inline std::uint64_t block_checksum(const unsigned char* bytes, std::size_t size, std::size_t block) {
  const std::size_t from = block * checksum_block;
  const std::size_t many = size - from < checksum_block ? size - from : checksum_block;
  const unsigned char* at = bytes + from;
  constexpr int lanes = 8;
  std::uint64_t running[2 * lanes] = {};
  const std::size_t rows = many / (8 * lanes);
  for (std::size_t i = 0; i < rows; ++i, at += 8 * lanes)
    for (int k = 0; k < lanes; ++k) {
      running[k] = turn_left(running[k] + read_number<std::uint64_t>(at + 8 * k), 29);
      running[lanes + k] += running[k];
    }
  const std::uint64_t rest = checksum(at, many - 8 * lanes * rows, block);
  return checksum(reinterpret_cast<const unsigned char*>(running), sizeof running, rest);
}

}  // namespace ladder
