/// Everything at once.
#pragma once

#include <fibula/build.hpp>
#include <fibula/closure.hpp>
#include <fibula/emit.hpp>
#include <fibula/explain.hpp>
#include <fibula/facts.hpp>
#include <fibula/fit.hpp>
#include <fibula/folder.hpp>
#include <fibula/lane.hpp>
#include <fibula/lock.hpp>
#include <fibula/progress.hpp>
#include <fibula/project.hpp>
#include <fibula/result.hpp>
#include <fibula/shelf.hpp>
#include <fibula/stage.hpp>
#include <fibula/take.hpp>
#include <fibula/target.hpp>
#include <fibula/why.hpp>
