/* SPDX-License-Identifier: MIT */
/* Sanitizers must be told when the stack changes under them. */
#ifndef WADI_FIBER_H
#define WADI_FIBER_H

#include <stddef.h>

#if defined(__SANITIZE_ADDRESS__)
#include <sanitizer/common_interface_defs.h>
/* the host's stack, while the firmware has its own */
extern _Thread_local const void *wadi_host_stack;
extern _Thread_local size_t wadi_host_stack_size;
#define WADI_FIBER_LEAVE(save, base, size)  __sanitizer_start_switch_fiber((save), (base), (size))
#define WADI_FIBER_ARRIVE(save, base, size) __sanitizer_finish_switch_fiber((save), (base), (size))
#else
#define WADI_FIBER_LEAVE(save, base, size)  ((void)0)
#define WADI_FIBER_ARRIVE(save, base, size) ((void)0)
#endif

#endif
