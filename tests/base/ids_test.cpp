#include "support.hpp"

#include <bordado/base/ids.hpp>

namespace of_base_ids {

using namespace bordado;

namespace {

enum class CupId : std::uint32_t {};
enum class SpoonId : std::uint32_t {};

template <class L, class I>
concept indexed_by = requires(L list, I at) {
  list[at];
};

}  // namespace

TEST_CASE("a list is indexed by its own ids and by nothing else") {
  static_assert(indexed_by<List<CupId, int>, CupId>);
  static_assert(!indexed_by<List<CupId, int>, SpoonId>);
  static_assert(!indexed_by<List<CupId, int>, int>);
  static_assert(!std::is_convertible_v<CupId, std::uint32_t>);
  List<CupId, std::string> cups;
  CHECK(index(cups.next()) == 0);
  for (const char* const name : {"tea", "coffee", "milk", "water"}) cups.push_back(name);
  CHECK(cups[CupId{2}] == "milk");
  CHECK(index(cups.next()) == 4);
  std::vector<std::uint32_t> all, later;
  for (const CupId id : cups.ids()) all.push_back(index(id));
  for (const CupId id : cups.ids(2)) later.push_back(index(id));
  CHECK(all == std::vector<std::uint32_t>{0, 1, 2, 3});
  CHECK(later == std::vector<std::uint32_t>{2, 3});
  CHECK(cups.ids(9).begin() == cups.ids(9).end());
  CHECK(erase_if(cups, [](const std::string& name) { return name.size() > 4; }) == 2);
  CHECK(cups.all() == std::vector<std::string>{"tea", "milk"});
}

}  // namespace of_base_ids
