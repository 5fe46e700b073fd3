/// \file ending.hpp
/// What must not be cut in two by a signal that ends the program.
#ifndef BORDADO_SRC_BASE_ENDING_HPP
#define BORDADO_SRC_BASE_ENDING_HPP

#include <csignal>

namespace bordado {

/// While it lives, remove_temporaries() waits: signals of this thread are held, one that another thread takes waits there.
/// For the step between making something (a name, a folder, a process) and writing down that it is to be taken away.
/// Where the end has begun already, its constructor does not return.
class SignalsHeld {
 public:
  SignalsHeld();
  ~SignalsHeld();
  SignalsHeld(const SignalsHeld&) = delete;
  SignalsHeld& operator=(const SignalsHeld&) = delete;

 private:
  sigset_t before_{};
};

}  // namespace bordado

#endif
