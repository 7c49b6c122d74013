#ifndef TIDE_H
#define TIDE_H
#ifdef TIDE_DLL
#define TIDE_API __declspec(dllimport)
#else
#define TIDE_API
#endif
# 1 "tide.h" 1
extern "C" { TIDE_API int tide(int level); static inline int low(void) { return 1; } }
namespace sea { class Buoy { public: void ring(); }; template <class T> T moor(T t); int knots(const char* name, ...); }
#endif
