/* Connected components of a label map by runs (run-length union-find labelling), their sums, and their adjacency.
 *
 * A run is a stretch of pixels of one value in one row; components are 4-connected. Source: L. He, Y. Chao & K. Suzuki,
 * IEEE Trans. Image Processing 17, 2008 (run-based labelling), from memory. */
#include "kernels.h"

/* Runs of a map (h, w): rows (h + 1,) is where each row's runs begin among all, begins (h·w + 1,) the pixel at which each
 * run begins, and the end of all. Returns the number of runs. */
WIDE int64_t find_runs(const uint8_t *steps, int64_t h, int64_t w, int64_t *rows, int32_t *begins) {
    uint8_t *changes = malloc((size_t)w + 1);
    if (!changes) return NO_MEMORY;
    int64_t count = 0;
    rows[0] = 0;
    changes[0] = 1;
    for (int64_t y = 0; y < h; y++) {
        const uint8_t *row = steps + y * w;
        for (int64_t x = 1; x < w; x++) changes[x] = row[x] != row[x - 1];
        for (int64_t x = 0; x < w; x++) { /* where nothing changes what is noted is written over */
            begins[count] = (int32_t)(y * w + x);
            count += changes[x];
        }
        rows[y + 1] = count;
    }
    begins[count] = (int32_t)(h * w);
    free(changes);
    return count;
}

INLINE int32_t root(int32_t *parent, int32_t run) {
    while (parent[run] != run) {
        parent[run] = parent[parent[run]]; /* path halving */
        run = parent[run];
    }
    return run;
}

static void join_rows(const int32_t *begins, const uint8_t *values, int32_t *parent, int64_t above, int64_t here,
                      int64_t end, int64_t w) {
    int64_t one = above, other = here;
    while (one < here && other < end) {
        if (values[one] == values[other]) {
            int32_t a = root(parent, (int32_t)one), b = root(parent, (int32_t)other);
            if (a < b) parent[b] = a; else parent[a] = b;
        }
        int64_t one_end = begins[one + 1] + w, other_end = begins[other + 1];
        one += one_end <= other_end;
        other += other_end <= one_end;
    }
}

/* The component of each run (r,), numbered by value and then by first pixel, and the value of each component in order
 * (room for r). Returns the number of components. */
int64_t label_runs(const uint8_t *steps, int64_t h, int64_t w, const int64_t *rows, const int32_t *begins,
                   int32_t *numbers, int64_t *told) {
    int64_t runs = rows[h];
    uint8_t *values = malloc((size_t)runs + 1);
    int32_t *parent = malloc(sizeof(int32_t) * ((size_t)runs + 1));
    if (!values || !parent) { free(values); free(parent); return NO_MEMORY; }
    for (int64_t run = 0; run < runs; run++) {
        values[run] = steps[begins[run]];
        parent[run] = (int32_t)run;
    }
    for (int64_t y = 1; y < h; y++) join_rows(begins, values, parent, rows[y - 1], rows[y], rows[y + 1], w);
    int64_t next[257] = {0};
    for (int64_t run = 0; run < runs; run++)
        if (parent[run] == run) next[values[run] + 1]++;
    for (int k = 0; k < 256; k++) next[k + 1] += next[k];
    int64_t count = next[256];
    for (int64_t run = 0; run < runs; run++) {
        if (parent[run] == run) {
            int64_t number = next[values[run]]++;
            told[number] = values[run];
            numbers[run] = (int32_t)number;
        } else { /* its root comes earlier and has its number already */
            numbers[run] = numbers[root(parent, (int32_t)run)];
        }
    }
    free(values);
    free(parent);
    return count;
}

/* A map (h·w,) of one number per component (n,), from runs (r,). */
void fill_bytes(const int32_t *begins, const int32_t *numbers, int64_t runs, const uint8_t *told, uint8_t *found) {
    for (int64_t run = 0; run < runs; run++)
        memset(found + begins[run], told[numbers[run]], (size_t)(begins[run + 1] - begins[run]));
}

void fill_labels(const int32_t *begins, const int32_t *numbers, int64_t runs, const int32_t *told, int32_t *found) {
    for (int64_t run = 0; run < runs; run++) {
        int32_t each = told[numbers[run]];
        for (int32_t place = begins[run]; place < begins[run + 1]; place++) found[place] = each;
    }
}

/* The same for the components that are wanted (n,) only, into a map that is there. */
void fill_some(const int32_t *begins, const int32_t *numbers, int64_t runs, const int64_t *values, const bool *wanted,
               uint8_t *steps) {
    for (int64_t run = 0; run < runs; run++)
        if (wanted[numbers[run]])
            memset(steps + begins[run], (int)values[numbers[run]], (size_t)(begins[run + 1] - begins[run]));
}

/* The pixels of each component (n,), begun at nought. */
void count_pixels(const int32_t *begins, const int32_t *numbers, int64_t runs, int64_t *found) {
    for (int64_t run = 0; run < runs; run++) found[numbers[run]] += begins[run + 1] - begins[run];
}

/* Sums of a picture (h·w,) and of its squares over each component (n,), begun at nought. */
void sum_pixels(const int32_t *begins, const int32_t *numbers, int64_t runs, const float *of, double *sums,
                double *squares) {
    for (int64_t run = 0; run < runs; run++) {
        double held = 0, squared = 0;
        for (int32_t place = begins[run]; place < begins[run + 1]; place++) {
            double each = of[place];
            held += each;
            squared += each * each;
        }
        sums[numbers[run]] += held;
        squares[numbers[run]] += squared;
    }
}

/* How many pixels of a map (h, w) have each of ``count`` values and what they hold of a picture, column by column
 * (count, w), begun at nought. */
WIDE void sum_columns(const uint8_t *steps, const float *of, int64_t h, int64_t w, int64_t count, int64_t *areas,
                      double *sums) {
    for (int64_t y = 0; y < h; y++)
        for (int64_t value = 0; value < count; value++) {
            int64_t *restrict area = areas + value * w;
            double *restrict held = sums + value * w;
            const uint8_t *restrict step = steps + y * w;
            const float *restrict each = of + y * w;
            for (int64_t x = 0; x < w; x++) {
                bool inside = step[x] == value;
                area[x] += inside;
                held[x] += inside ? (double)each[x] : 0.0;
            }
        }
}

INLINE double border_length(const float *weight, int64_t begin, int64_t end, int64_t back) {
    if (!weight) return (double)(end - begin);
    double length = 0;
    for (int64_t place = begin; place < end; place++)
        length += (double)((weight[place - back] + weight[place]) * 0.5f);
    return length;
}

/* The slot of a pair in an open-addressed hash table of 2^k codes, -1 where free. */
INLINE int64_t slot_of(int64_t *codes, int64_t mask, int64_t one, int64_t other) {
    int64_t low = min_int(one, other), high = max_int(one, other), code = low << 32 | high;
    int64_t slot = (int64_t)(((uint64_t)low * 73856093u) ^ ((uint64_t)high * 19349663u)) & mask;
    while (codes[slot] >= 0 && codes[slot] != code) slot = (slot + 1) & mask;
    codes[slot] = code;
    return slot;
}

/* The region adjacency graph: in tables of ``room`` = 2^k slots, codes (all -1) low << 32 | high of every pair of
 * components that touch and lengths (all 0) of their border in pixel sides, each side counted as the mean ``weight``
 * (h·w,) of its two pixels, or as 1 where that is NULL. */
void find_adjacency(const int64_t *rows, int64_t h, const int32_t *begins, const int32_t *numbers, const float *weight,
                    int64_t room, int64_t *codes, double *lengths) {
    int64_t w = begins[rows[1]], mask = room - 1;
    for (int64_t y = 0; y < h; y++) {
        for (int64_t run = rows[y]; run < rows[y + 1] - 1; run++) {
            int64_t begin = begins[run + 1], slot = slot_of(codes, mask, numbers[run], numbers[run + 1]);
            lengths[slot] += border_length(weight, begin, begin + 1, 1);
        }
        if (!y) continue;
        int64_t one = rows[y - 1], other = rows[y];
        while (one < rows[y] && other < rows[y + 1]) {
            int64_t one_end = begins[one + 1] + w, other_end = begins[other + 1];
            if (numbers[one] != numbers[other]) {
                int64_t begin = max_int(begins[one] + w, begins[other]);
                int64_t slot = slot_of(codes, mask, numbers[one], numbers[other]);
                lengths[slot] += border_length(weight, begin, min_int(one_end, other_end), w);
            }
            one += one_end <= other_end;
            other += other_end <= one_end;
        }
    }
}

/* Of the components kept (n,) leave out those with a pixel beside one of their own value in another map (h, w). */
void drop_touching(bool *kept, const uint8_t *firm, int64_t h, int64_t w, const int32_t *begins, const int32_t *numbers,
                   int64_t runs, const int64_t *values) {
    for (int64_t run = 0; run < runs; run++) {
        if (!kept[numbers[run]]) continue;
        int64_t value = values[numbers[run]];
        for (int64_t place = begins[run]; place < begins[run + 1]; place++) {
            int64_t y = place / w, x = place % w;
            if (firm[y * w + max_int(x - 1, 0)] == value || firm[y * w + min_int(x + 1, w - 1)] == value ||
                firm[max_int(y - 1, 0) * w + x] == value || firm[min_int(y + 1, h - 1) * w + x] == value)
                kept[numbers[run]] = false;
        }
    }
}

/* The value of each crumb (n,): that of the root its owner leads to, whose paths are halved on the way. */
void resolve_values(int64_t *owner, const int64_t *values, int64_t count, uint8_t *told) {
    for (int64_t crumb = 0; crumb < count; crumb++) {
        int64_t at = crumb;
        while (owner[at] != at) {
            owner[at] = owner[owner[at]];
            at = owner[at];
        }
        told[crumb] = (uint8_t)values[at];
    }
}
