#ifndef BRISK_HERON_SAMPLE_TABLE_H
#define BRISK_HERON_SAMPLE_TABLE_H

#include <cstdint>
#include <vector>

namespace heron {

/** A sample that the runtime lists. */
struct Sample {
  uint64_t id = 0;
  int32_t path = 0;
  uint32_t nodeId = 0;
  uint64_t size = 0;
};

/** Samples by id: open addressing, filled once and then read. Ids are above 0. */
class SampleTable {
 public:
  void reset(size_t samples) {
    size_t slots = 64;
    while (slots < samples * 2) slots *= 2;
    cells.assign(slots, Sample{});
    mask = slots - 1;
    count = 0;
  }

  void add(const Sample& sample) {
    size_t slot = slotOf(sample.id);
    while (cells[slot].id != 0) slot = (slot + 1) & mask;
    cells[slot] = sample;
    count++;
  }

  /** The sample, or null. */
  Sample* find(uint64_t id) {
    if (cells.empty()) return nullptr;
    for (size_t slot = slotOf(id); cells[slot].id != 0; slot = (slot + 1) & mask) {
      if (cells[slot].id == id) return &cells[slot];
    }
    return nullptr;
  }

  size_t size() const { return count; }

  template <typename Each>
  void forEach(Each each) const {
    for (const Sample& cell : cells) {
      if (cell.id != 0) each(cell);
    }
  }

 private:
  size_t slotOf(uint64_t id) const { return static_cast<size_t>((id * 0x9E3779B97F4A7C15ull) >> 20) & mask; }
  std::vector<Sample> cells;
  size_t mask = 0;
  size_t count = 0;
};

}  // namespace heron

#endif
