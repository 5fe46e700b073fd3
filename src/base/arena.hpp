// Where parallel work runs.
#pragma once

#include <tbb/task_arena.h>

#include <functional>

namespace bordado {

/// Runs parallel work with the threads of work_with(), where a number was given.
void in_arena(const std::function<void()>& work);

}  // namespace bordado
