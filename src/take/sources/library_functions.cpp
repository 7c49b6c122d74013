#include "take/sources/library_functions.hpp"

#include <algorithm>
#include <initializer_list>

namespace fibula {
namespace {

bool is_among(std::string_view name, std::initializer_list<std::string_view> names) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

}  // namespace

bool is_c99_function(std::string_view name) {
  return is_among(name,
                  {"memmove",    "memset",  "memcpy",   "memchr",   "strchr",   "strrchr",  "strstr",   "strerror",
                   "strtol",     "strtoul", "strtoll",  "strtoull", "strtod",   "strtof",   "strtold",  "snprintf",
                   "vsnprintf",  "malloc",  "realloc",  "calloc",   "floor",    "ceil",     "pow",      "sqrt",
                   "rint",       "lrint",   "lrintf",   "lround",   "round",    "trunc",    "fabs",     "setlocale",
                   "localeconv", "atexit",  "qsort",    "bsearch",  "abort",    "strspn",   "strcspn",  "strpbrk",
                   "isascii",    "vprintf", "raise",    "signal",   "memcmp",   "mktime",   "strftime", "gmtime",
                   "localtime",  "time",    "clock",    "frexp",    "ldexp",    "atoll",    "labs",     "llabs",
                   "mbrtowc",    "wcrtomb", "iswprint", "iswalpha", "towlower", "copysign", "hypot",    "strcoll"});
}

bool is_posix_function(std::string_view name) {
  return is_among(
      name,
      {"mmap",      "munmap",         "fork",           "getpagesize", "strndup",     "fsync",       "pipe",
       "waitpid",   "nanosleep",      "getuid",         "geteuid",     "getgid",      "getegid",     "select",
       "poll",      "pread",          "pwrite",         "readlink",    "lstat",       "sysconf",     "mkdir",
       "sigaction", "clock_gettime",  "posix_memalign", "gmtime_r",    "localtime_r", "getaddrinfo", "socket",
       "kill",      "setenv",         "unsetenv",       "putenv",      "vsyslog",     "syslog",      "uselocale",
       "newlocale", "pthread_create", "posix_fadvise",  "getline",     "getdelim",    "stpcpy",      "strnlen",
       "fmemopen",  "open_memstream", "dprintf",        "mkstemp",     "mkdtemp",     "realpath",    "sigprocmask",
       "strsignal", "flockfile",      "getpwuid",       "getpwnam",    "tcgetattr",   "getrlimit",   "setrlimit",
       "getrusage", "utimes",         "utime",          "symlink",     "link",        "chown",       "fchmod",
       "chmod",     "umask",          "random",         "srandom",     "drand48",     "alarm",       "gethostname",
       "inet_ntop", "inet_pton",      "getnameinfo",    "socketpair",  "uname",       "ttyname",     "getppid",
       "setsid",    "setpgid",        "tzset",          "strptime",    "wcwidth",     "nl_langinfo", "regcomp",
       "fnmatch",   "glob",           "getopt",         "wcswidth",    "vdprintf",    "fcntl"});
}

bool is_beyond_posix(std::string_view name) {
  return is_among(
      name, {"memmem", "asprintf", "vasprintf", "strcasestr", "strsep", "getopt_long", "timegm", "bzero", "daemon",
             "basename", "dirname", "getgrouplist", "cfmakeraw", "err", "warn", "mkstemps", "wait4"});
}

bool is_of_linux(std::string_view name) {
  return is_among(name, {"memrchr",       "strchrnul",       "mempcpy",        "pipe2",         "accept4",
                         "dup3",          "eventfd",         "inotify_init",   "inotify_init1", "epoll_create",
                         "epoll_create1", "signalfd",        "timerfd_create", "prctl",         "sched_getaffinity",
                         "getauxval",     "secure_getenv",   "explicit_bzero", "memfd_create",  "sendmmsg",
                         "recvmmsg",      "posix_fallocate", "sendfile",       "splice",        "ppoll",
                         "syncfs"});
}

bool is_also_in_mingw(std::string_view name) {
  return is_among(
      name, {"strdup",    "strcasecmp", "strncasecmp", "fseeko", "ftello", "gettimeofday", "usleep", "open",   "dup2",
             "ftruncate", "fileno",     "strtok_r",    "access", "unlink", "stat",         "fstat",  "getcwd", "isatty",
             "strnlen",   "getopt",     "getopt_long", "utime",  "putenv", "chmod",        "umask",  "tzset"});
}

}  // namespace fibula
