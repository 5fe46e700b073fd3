/// \file ids.hpp
/// Ids that are types of their own, and lists that only they index.
#ifndef BORDADO_BASE_IDS_HPP
#define BORDADO_BASE_IDS_HPP

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <type_traits>
#include <vector>

namespace bordado {

/// The place of something in its list is a type of its own, `enum class PlyId : std::uint32_t`: an id indexes its own
/// lists and no others. The number behind it, from 0:
template <class Id>
requires std::is_enum_v<Id>
constexpr std::uint32_t index(Id id) { return static_cast<std::uint32_t>(id); }

/// Ids that follow each other.
template <class Id>
class Ids {
 public:
  class Iterator {
   public:
    using value_type = Id;
    using difference_type = std::ptrdiff_t;
    Iterator() = default;
    explicit Iterator(std::uint32_t at) : at_(at) {}
    Id operator*() const { return Id{at_}; }
    Iterator& operator++() { return ++at_, *this; }
    Iterator operator++(int) { return Iterator(at_++); }
    friend bool operator==(const Iterator&, const Iterator&) = default;

   private:
    std::uint32_t at_ = 0;
  };
  Ids(std::size_t begin, std::size_t end)
      : begin_(static_cast<std::uint32_t>(begin)), end_(static_cast<std::uint32_t>(std::max(begin, end))) {}
  Iterator begin() const { return Iterator(begin_); }
  Iterator end() const { return Iterator(end_); }

 private:
  std::uint32_t begin_, end_;
};

/// A vector that ids of one kind index.
template <class Id, class T>
class List : private std::vector<T> {
  using Vector = std::vector<T>;

 public:
  using typename Vector::const_iterator;
  using typename Vector::iterator;
  using typename Vector::value_type;
  using Vector::assign;
  using Vector::back;
  using Vector::begin;
  using Vector::clear;
  using Vector::data;
  using Vector::emplace_back;
  using Vector::empty;
  using Vector::end;
  using Vector::front;
  using Vector::push_back;
  using Vector::reserve;
  using Vector::resize;
  using Vector::size;
  using Vector::Vector;

  T& operator[](Id id) { return Vector::operator[](index(id)); }
  const T& operator[](Id id) const { return Vector::operator[](index(id)); }
  /// All, or those from a place on.
  Ids<Id> ids(std::size_t from = 0) const { return {from, size()}; }
  /// Of what is appended next.
  Id next() const { return Id{static_cast<std::uint32_t>(size())}; }
  const std::vector<T>& all() const { return *this; }
  /// Takes out every item that `goes` says yes to; ids of those behind it become smaller.
  template <class Goes>
  friend std::size_t erase_if(List& list, Goes goes) {
    return std::erase_if(static_cast<Vector&>(list), goes);
  }
  friend bool operator==(const List&, const List&) = default;
};

}  // namespace bordado

#endif
