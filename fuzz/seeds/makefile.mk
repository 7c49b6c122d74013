CFLAGS += -O2 \
  -DTIDE # why
all: tide.o
	cc -o $@ $^
