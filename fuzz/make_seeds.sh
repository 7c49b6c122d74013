#!/bin/sh
# Makes small files of every kind that a reader takes. usage: make_seeds.sh FOLDER
set -eu
mkdir -p "$1"
cd "$1"
printf 'int t[4]; int f(int i) { return t[i]; }\n' >a.c
printf '#include <string>\ninline int two() { return 2; }\nstd::string g() { return std::string(two(), 120); }\n' >b.cpp
gcc -c a.c -o a.o
gcc -m32 -c a.c -o a32.o
g++ -c b.cpp -o b.o
gcc -shared -fPIC a.c -Wl,-soname,liba.so.1 -o liba.so
gcc -shared -fPIC a.c -Wl,--hash-style=sysv -s -o libs.so
rm -f gnu.a thin.a bsd.a darwin.a
ar rcs gnu.a a.o b.o
ar rcsT thin.a a.o
llvm-ar --format=bsd rcs bsd.a a.o
llvm-ar --format=darwin rcs darwin.a a.o
echo 'GROUP ( /lib/liba.so AS_NEEDED ( -lb ) )' >script
echo '<!DOCTYPE html><html></html>' >page
: >empty
rm a.c b.cpp
