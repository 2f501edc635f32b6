/* The loops over pixels and borders that no library does: what all of them share.
 *
 * Every function is pure: it reads and writes the arrays it is given, all of them C-contiguous, and keeps nothing.
 * Shapes are in the comment of each; h is rows, w columns, row-major. What allocates returns NO_MEMORY when it cannot.
 * Floating point is done in the order written (no contraction, no reassociation), so that the plain Python of each in
 * tests/craft/reference gives the same bits. */
#ifndef MILD_COMPASS_KERNELS_H
#define MILD_COMPASS_KERNELS_H

#include <math.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdlib.h>
#include <string.h>

#define NO_MEMORY (-1)

/* Loops that the compiler makes wide are built twice on x86-64, and the processor chooses when the library is loaded. */
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__)
#define WIDE __attribute__((target_clones("avx2", "default")))
#else
#define WIDE
#endif
#define INLINE static inline __attribute__((always_inline))

INLINE int64_t min_int(int64_t a, int64_t b) { return a < b ? a : b; }
INLINE int64_t max_int(int64_t a, int64_t b) { return a > b ? a : b; }
INLINE double min_double(double a, double b) { return a < b ? a : b; }
INLINE double max_double(double a, double b) { return a > b ? a : b; }

/* A region adjacency graph whose regions merge; see adjacency.c. */
typedef struct {
    int64_t *first, *beyond, *after, *before, *toward;
    double *length;
} Adjacency;

#define NONE (-1)

bool adjacency_of(Adjacency *graph, const int64_t *one, const int64_t *other, const double *lengths, int64_t pairs,
                  int64_t regions);
void adjacency_free(Adjacency *graph);
void adjacency_join(const Adjacency *graph, int64_t gone, int64_t kept);

#endif
