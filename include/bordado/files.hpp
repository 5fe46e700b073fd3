/// \file files.hpp
/// Files that must not be lost.
#ifndef BORDADO_FILES_HPP
#define BORDADO_FILES_HPP

#include <string>

namespace bordado {

/// From now on no OutputFile of this process replaces that file, whatever it is called and whether it was read or not.
/// Nothing happens where there is no regular file.
void keep(const std::string& path);

}  // namespace bordado

#endif
