/* Total variation denoising (L. Rudin, S. Osher & E. Fatemi, Physica D 60, 1992) by fast gradient projection on its dual
 * (A. Beck & M. Teboulle, IEEE Trans. Image Processing 18, 2009). */
#include "kernels.h"

#define STEP 0.125f /* 1 / 8: the Lipschitz bound of the dual gradient on a grid */

/* One row of the primal, lightness + div(dual), into row (w + 1,), its last pixel twice. */
INLINE void primal_row(float *restrict row, const float *lightness, const float *across, const float *down, int64_t w,
                       int64_t y) {
    const float *restrict light = lightness + y * w, *restrict a = across + y * w, *restrict d = down + y * w;
    for (int64_t x = 0; x < w; x++) row[x] = light[x] + a[x] + d[x];
    for (int64_t x = 1; x < w; x++) row[x] -= a[x - 1];
    if (y > 0)
        for (int64_t x = 0; x < w; x++) row[x] -= d[x - w];
    row[w] = row[w - 1];
}

INLINE void ascend_row(const float *restrict row, const float *restrict below, float *restrict ahead_across,
                       float *restrict ahead_down, float *restrict across, float *restrict down,
                       const float *restrict most, float further, int64_t w) {
    for (int64_t x = 0; x < w; x++) {
        float a = ahead_across[x] + STEP * (row[x + 1] - row[x]);
        float d = ahead_down[x] + STEP * (below[x] - row[x]);
        float norm = sqrtf(a * a + d * d);
        float held = most[x] / (norm > most[x] ? norm : most[x]);
        a *= held;
        d *= held;
        ahead_across[x] = a + further * (a - across[x]);
        ahead_down[x] = d + further * (d - down[x]);
        across[x] = a;
        down[x] = d;
    }
}

/* So many steps of the dual field across, down (h, w), each of its vectors at most ``limits`` long, (h, w) or one where
 * ``even``. */
WIDE int64_t ascend_dual(const float *lightness, const float *limits, int64_t even, float *across, float *down,
                         int64_t h, int64_t w, int64_t times) {
    size_t plane = sizeof(float) * (size_t)(h * w);
    float *ahead_across = malloc(plane), *ahead_down = malloc(plane);
    float *rows = malloc(sizeof(float) * 3 * ((size_t)w + 1));
    if (!ahead_across || !ahead_down || !rows) { free(ahead_across); free(ahead_down); free(rows); return NO_MEMORY; }
    memcpy(ahead_across, across, plane);
    memcpy(ahead_down, down, plane);
    float *row = rows, *below = rows + w + 1, *most = rows + 2 * (w + 1);
    for (int64_t x = 0; x < w; x++) most[x] = limits[0];
    double pace = 1.0;
    for (int64_t time = 0; time < times; time++) {
        double next = (1 + sqrt(1 + 4 * pace * pace)) / 2;
        float further = (float)((pace - 1) / next);
        pace = next;
        primal_row(row, lightness, ahead_across, ahead_down, w, 0);
        for (int64_t y = 0; y < h; y++) {
            if (y < h - 1) primal_row(below, lightness, ahead_across, ahead_down, w, y + 1);
            else memcpy(below, row, sizeof(float) * ((size_t)w + 1));
            ascend_row(row, below, ahead_across + y * w, ahead_down + y * w, across + y * w, down + y * w,
                       even ? most : limits + y * w, further, w);
            float *swap = row; row = below; below = swap;
        }
    }
    free(ahead_across);
    free(ahead_down);
    free(rows);
    return 0;
}

/* The primal (h, w) of a dual field. */
WIDE int64_t primal_of(const float *lightness, const float *across, const float *down, int64_t h, int64_t w,
                       float *found) {
    float *row = malloc(sizeof(float) * ((size_t)w + 1));
    if (!row) return NO_MEMORY;
    for (int64_t y = 0; y < h; y++) {
        primal_row(row, lightness, across, down, w, y);
        memcpy(found + y * w, row, sizeof(float) * (size_t)w);
    }
    free(row);
    return 0;
}
