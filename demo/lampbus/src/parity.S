/* The parity of a word: halves are folded onto each other until one bit is left. */
#if defined(__USER_LABEL_PREFIX__)
#define JOINED_(a, b) a##b
#define JOINED(a, b) JOINED_(a, b)
#define NAME JOINED(__USER_LABEL_PREFIX__, lampbus_parity)
#else
#define NAME lampbus_parity
#endif

  .text
  .globl NAME
#if defined(__ELF__)
  .type NAME, %function
#endif
#if defined(__arm__)
  .syntax unified
#endif
NAME:
#if defined(__x86_64__) && defined(_WIN32)
  movl %ecx, %eax
  shrl $16, %ecx
  xorl %ecx, %eax
  xorb %ah, %al
  setnp %al
  movzbl %al, %eax
  ret
#elif defined(__x86_64__)
  movl %edi, %eax
  shrl $16, %edi
  xorl %edi, %eax
  xorb %ah, %al
  setnp %al
  movzbl %al, %eax
  ret
#elif defined(__i386__)
  movl 4(%esp), %eax
  movl %eax, %edx
  shrl $16, %edx
  xorl %edx, %eax
  xorb %ah, %al
  setnp %al
  movzbl %al, %eax
  ret
#elif defined(__aarch64__)
  eor w0, w0, w0, lsr #16
  eor w0, w0, w0, lsr #8
  eor w0, w0, w0, lsr #4
  eor w0, w0, w0, lsr #2
  eor w0, w0, w0, lsr #1
  and w0, w0, #1
  ret
#elif defined(__arm__)
  eor r0, r0, r0, lsr #16
  eor r0, r0, r0, lsr #8
  eor r0, r0, r0, lsr #4
  eor r0, r0, r0, lsr #2
  eor r0, r0, r0, lsr #1
  and r0, r0, #1
  bx lr
#else
#error "lampbus has no parity for this processor"
#endif

#if defined(__ELF__)
  .section .note.GNU-stack, "", %progbits
#endif
