/* Polygons painted by exact area coverage, by signed differences of each edge along the rows (accumulation buffer). */
#include "kernels.h"

/* The row below the last that a piece passes; a level one passes none. */
INLINE int64_t row_below(double y, double to_y, int64_t rows) {
    return y != to_y ? min_int((int64_t)ceil(max_double(y, to_y)), rows) : 0;
}

/* Lines (m,) cut at the rows of pixels. Without ``pieces`` only begins (rows + 1,) is written: where each row begins among
 * them. With it, and begins as it came, of each its x at both ends and by how much what lies right of it is lighter, times
 * its height (n, 3). ``at`` (rows,) is room. */
int64_t cut_at_rows(const double *points, const int64_t *first, const double *changes, int64_t m, int64_t rows,
                    int64_t *begins, int64_t *at, double *pieces) {
    if (pieces) memcpy(at, begins, sizeof(int64_t) * (size_t)rows);
    else memset(begins, 0, sizeof(int64_t) * ((size_t)rows + 1));
    for (int64_t line = 0; line < m; line++)
        for (int64_t k = first[line]; k < first[line + 1] - 1; k++) {
            double x = points[2 * k], y = points[2 * k + 1], to_x = points[2 * k + 2], to_y = points[2 * k + 3];
            int64_t below = row_below(y, to_y, rows);
            for (int64_t row = (int64_t)min_double(y, to_y); row < below; row++) {
                if (!pieces) { begins[row + 1]++; continue; }
                double low = min_double(max_double(y, (double)row), (double)(row + 1));
                double high = min_double(max_double(to_y, (double)row), (double)(row + 1));
                double slope = (to_x - x) / (to_y - y), *piece = pieces + 3 * at[row]++;
                piece[0] = x + slope * (low - y);
                piece[1] = x + slope * (high - y);
                piece[2] = (high - low) * changes[line]; /* down, what lies left as one walks is right of it */
            }
        }
    if (!pieces)
        for (int64_t row = 0; row < rows; row++) begins[row + 1] += begins[row];
    return begins[rows];
}

/* One row of pieces added up: each changes all that is right of it, and what it crosses by its share. */
static void add_row(const double *pieces, int64_t count, double *change, uint8_t *touched) {
    for (int64_t k = 0; k < count; k++) {
        const double *piece = pieces + 3 * k;
        double x = min_double(piece[0], piece[1]), to_x = max_double(piece[0], piece[1]), by = piece[2];
        int64_t pixel = (int64_t)x;
        double length = to_x - x;
        for (;;) {
            double stop = min_double(to_x, (double)pixel + 1.0);
            double part = length > 0 ? by * (stop - x) / length : by, share = (x + stop) / 2 - (double)pixel;
            change[pixel] += part * (1 - share);
            change[pixel + 1] += part * share;
            touched[pixel] = touched[pixel + 1] = 1;
            if (stop >= to_x) break;
            x = stop;
            pixel++;
        }
    }
}

INLINE int64_t next_touched(const uint8_t *touched, int64_t stop) {
    while (!touched[stop]) {
        uint64_t eight = 1;
        if ((stop & 7) == 0) memcpy(&eight, touched + stop, 8);
        stop += eight == 0 ? 8 : 1;
    }
    return stop;
}

/* A picture (h, w) painted row by row from pieces cut at its rows, with ``added`` everywhere. */
#define SWEEP(NAME, TYPE)                                                                                             \
    int64_t NAME(TYPE *picture, int64_t h, int64_t w, double added, const int64_t *begins, const double *pieces) {     \
        double *change = calloc((size_t)w + 2, sizeof(double));                                                      \
        uint8_t *touched = calloc((size_t)w + 24, 1);                                                                \
        if (!change || !touched) { free(change); free(touched); return NO_MEMORY; }                                  \
        for (int64_t row = 0; row < h; row++) {                                                                       \
            add_row(pieces + 3 * begins[row], begins[row + 1] - begins[row], change, touched);                        \
            touched[w] = 1;                                                                                           \
            TYPE *line = picture + row * w;                                                                           \
            double total = added;                                                                                     \
            for (int64_t start = 0, stop; start < w; start = stop) {                                                  \
                stop = next_touched(touched, start + 1);                                                              \
                total += change[start];                                                                               \
                change[start] = 0;                                                                                    \
                touched[start] = 0;                                                                                   \
                TYPE each = (TYPE)total;                                                                              \
                for (int64_t x = start; x < stop; x++) line[x] = each;                                                \
            }                                                                                                         \
            change[w] = change[w + 1] = 0;                                                                            \
            touched[w] = touched[w + 1] = 0;                                                                          \
        }                                                                                                             \
        free(change);                                                                                                 \
        free(touched);                                                                                                \
        return 0;                                                                                                     \
    }

SWEEP(sweep_floats, float)
SWEEP(sweep_bytes, uint8_t)

/* A histogram of L* values (n,) in 100 whole steps, begun at nought. */
void count_lightness(const float *values, int64_t n, int64_t *found) {
    for (int64_t k = 0; k < n; k++) {
        double value = values[k];
        value = value < 0.0 ? 0.0 : value;
        found[(int64_t)(value < 99.99 ? value : 99.99)]++;
    }
}
