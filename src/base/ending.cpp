#include <bordado/base/files.hpp>
#include <bordado/base/working_folder.hpp>

#include "ending.hpp"

#include <fcntl.h>
#include <sched.h>
#include <sys/syscall.h>
#include <sys/wait.h>
#include <unistd.h>
#include <array>
#include <atomic>
#include <cerrno>
#include <cstring>
#include <ctime>

namespace bordado {

namespace {

/// Leaders of groups of processes that end first.
std::array<std::atomic<pid_t>, 256> leaders;
/// Whether remove_temporaries() has begun, and how many threads hold signals: it waits for these.
std::atomic<bool> ending{false};
std::atomic<int> held{0};

/// Paths for remove_temporaries(): a signal handler may neither lock nor allocate, so they stand in fixed places.
constexpr std::size_t slot_count = 512, slot_size = 4096;
enum class SlotState : int { free, filling, used };
struct Slot {
  std::atomic<SlotState> state{SlotState::free};
  char path[slot_size];
};
std::array<Slot, slot_count> slots;

/// The files of a folder but the one that says whose it is. By calls that are safe in a signal handler.
void remove_files_of(int folder) noexcept {
  // As the kernel gives it: two numbers of eight bytes, the length of the entry in two, a kind, the name.
  alignas(8) char entries[4096];
  ::lseek(folder, 0, SEEK_SET);
  for (;;) {
    const long got = ::syscall(SYS_getdents64, folder, entries, sizeof entries);
    if (got <= 0) break;
    bool removed = false;
    for (long at = 0; at < got;) {
      unsigned short length = 0;
      std::memcpy(&length, entries + at + 16, sizeof length);
      const char* const name = entries + at + 19;
      if (std::strcmp(name, owner_file) != 0 && ::unlinkat(folder, name, 0) == 0) removed = true;
      at += length;
    }
    if (removed) ::lseek(folder, 0, SEEK_SET);
  }
}

/// The files of a folder and the folder, by calls that are safe in a signal handler. Whose it was goes last, so that the
/// next run can clear up after one that is killed on the way. Other threads may still be putting something there.
void remove_folder(const char* path) noexcept {
  const int folder = ::open(path, O_RDONLY | O_DIRECTORY | O_CLOEXEC | O_NOFOLLOW);
  if (folder < 0) return;
  for (int attempt = 0; attempt < 100; ++attempt) {
    remove_files_of(folder);
    ::unlinkat(folder, owner_file, 0);
    if (::rmdir(path) == 0 || (errno != ENOTEMPTY && errno != EEXIST)) break;
    const timespec moment{0, 2'000'000};
    ::nanosleep(&moment, nullptr);
  }
  ::close(folder);
}

}  // namespace

SignalsHeld::SignalsHeld() {
  sigset_t all;
  sigfillset(&all);
  ::pthread_sigmask(SIG_BLOCK, &all, &before_);
  ++held;
  if (!ending) return;
  --held;
  wait_if_ending();
}

SignalsHeld::~SignalsHeld() {
  --held;
  ::pthread_sigmask(SIG_SETMASK, &before_, nullptr);
}

Temporary::Temporary(const std::string& path) : slot_(slot_count) {
  if (path.size() + 1 > slot_size) return;
  for (std::size_t i = 0; i < slot_count && slot_ == slot_count; ++i) {
    SlotState expected = SlotState::free;
    if (!slots[i].state.compare_exchange_strong(expected, SlotState::filling)) continue;
    std::memcpy(slots[i].path, path.c_str(), path.size() + 1);
    slots[i].state = SlotState::used;
    slot_ = i;
  }
}

Temporary::~Temporary() {
  if (slot_ < slot_count) slots[slot_].state = SlotState::free;
}

EndsWithUs::EndsWithUs(const std::function<pid_t()>& begin) : slot_(leaders.size()) {
  const SignalsHeld no_end_in_between;
  leader_ = begin();
  if (leader_ <= 0) return;
  for (std::size_t i = 0; i < leaders.size() && slot_ == leaders.size(); ++i)
    if (pid_t none = 0; leaders[i].compare_exchange_strong(none, leader_)) slot_ = i;
}

EndsWithUs::~EndsWithUs() {
  if (slot_ < leaders.size()) leaders[slot_] = 0;
}

void wait_if_ending() {
  while (ending) ::pause();
}

void remove_temporaries() noexcept {
  ending = true;
  while (held > 0) ::sched_yield();
  for (const auto& leader : leaders)
    if (const pid_t group = leader; group > 0) ::kill(-group, SIGKILL);
  for (const auto& leader : leaders)
    if (const pid_t group = leader; group > 0)
      while (::waitpid(group, nullptr, 0) < 0 && errno == EINTR) {
      }
  for (std::size_t i = slot_count; i-- > 0;)
    if (slots[i].state == SlotState::used && ::unlink(slots[i].path) != 0) remove_folder(slots[i].path);
}

}  // namespace bordado
