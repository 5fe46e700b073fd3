/// \file replacing.hpp
/// What may happen to a file that is there.
#ifndef BORDADO_BASE_REPLACING_HPP
#define BORDADO_BASE_REPLACING_HPP

namespace bordado {

/// What happens to a file that is there already.
enum class Existing { replaced, added_to };

/// Which earlier file may go.
enum class MayReplace {
  the_one_named,  ///< the user named this very file
  the_one_read,   ///< it was read to be added to: what was there is part of what is written
  only_our_own,   ///< a file that Bordado did not make is refused, as where the name follows from another one
  nothing         ///< whatever is there is refused
};

}  // namespace bordado

#endif
