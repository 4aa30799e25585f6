// Before a function: compiled for wider vectors too, and the one for this machine chosen when the addon is loaded.
#pragma once

#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__)
#define SHALE_VECTORS __attribute__((target_clones("avx2", "default")))
#else
#define SHALE_VECTORS
#endif
