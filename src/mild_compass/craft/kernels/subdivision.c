/* A planar subdivision from lines: which of them cross, sought in a uniform grid, and the faces between them, by
 * half-edges. Line k holds points (n, 2) from first[k] to first[k + 1]. */
#include "kernels.h"

typedef struct {
    const double *points;
    const bool *ends;
    double nought;
} Pieces;

/* On which side of a piece a point lies: 1 or -1, and 0 on it. */
INLINE int side_of(const Pieces *all, int64_t start, int64_t stop, int64_t at) {
    const double *p = all->points;
    double x = p[2 * stop] - p[2 * start], y = p[2 * stop + 1] - p[2 * start + 1];
    double area = x * (p[2 * at + 1] - p[2 * start + 1]) - y * (p[2 * at] - p[2 * start]);
    return fabs(area) <= all->nought ? 0 : area > 0 ? 1 : -1;
}

/* Whether two pieces from one point run the same way. */
INLINE bool overlap(const Pieces *all, int64_t at, int64_t one, int64_t other) {
    const double *p = all->points;
    double x = p[2 * one] - p[2 * at], y = p[2 * one + 1] - p[2 * at + 1];
    double to_x = p[2 * other] - p[2 * at], to_y = p[2 * other + 1] - p[2 * at + 1];
    return x * to_x + y * to_y > 0 && fabs(x * to_y - y * to_x) <= all->nought;
}

/* Whether two pieces near each other have more in common than a point in which both may end. */
static bool meet(const Pieces *all, int64_t one, int64_t other) {
    if (one - other == 1 || other - one == 1) {
        int64_t at = max_int(one, other);
        return overlap(all, at, at - 1, at + 1);
    }
    const double *p = all->points;
    for (int64_t a = one; a < one + 2; a++)
        for (int64_t b = other; b < other + 2; b++)
            if (all->ends[a] && all->ends[b] && p[2 * a] == p[2 * b] && p[2 * a + 1] == p[2 * b + 1])
                return overlap(all, a, 2 * one + 1 - a, 2 * other + 1 - b);
    int here = side_of(all, one, one + 1, other), there = side_of(all, one, one + 1, other + 1);
    int back = side_of(all, other, other + 1, one), on = side_of(all, other, other + 1, one + 1);
    return here * there <= 0 && back * on <= 0;
}

typedef struct {
    int64_t *column, *row, wide, high;
} Grid;

static void cells_of(const double *points, int64_t n, double square, int axis, int64_t *found, int64_t *count) {
    double least = points[axis];
    int64_t most = 0;
    for (int64_t k = 1; k < n; k++) least = min_double(least, points[2 * k + axis]);
    for (int64_t k = 0; k < n; k++) {
        found[k] = (int64_t)((points[2 * k + axis] - least) / square);
        most = max_int(most, found[k]);
    }
    *count = most + 1;
}

#define FOR_CELLS(grid, k, cell)                                                                                     \
    for (int64_t r_ = min_int(grid.row[k], grid.row[k + 1]); r_ <= max_int(grid.row[k], grid.row[k + 1]); r_++)       \
        for (int64_t cell = r_ * grid.wide + min_int(grid.column[k], grid.column[k + 1]);                            \
             cell <= r_ * grid.wide + max_int(grid.column[k], grid.column[k + 1]); cell++)

/* Lines (m,) that cross or touch another or themselves, but where they end in the same point; ``wrong`` (m,) is written.
 * Pieces are compared that share a cell, ``square`` wide, of a grid; what lies within ``nought`` of an area is on a line. */
int64_t find_crossing(const double *points, int64_t n, const int64_t *first, int64_t m, double square, double nought,
                      bool *wrong) {
    int64_t done = NO_MEMORY, *held = NULL, *begins = NULL;
    int64_t *line = malloc(sizeof(int64_t) * ((size_t)n + 1)), *cells = malloc(sizeof(int64_t) * 2 * ((size_t)n + 1));
    bool *ends = calloc((size_t)n + 1, 1);
    if (!line || !cells || !ends) goto out;
    Grid grid = {cells, cells + n, 0, 0};
    for (int64_t k = 0; k < n; k++) line[k] = NONE;
    for (int64_t k = 0; k < m; k++) {
        wrong[k] = false;
        for (int64_t p = first[k]; p < first[k + 1] - 1; p++) line[p] = k;
        ends[first[k]] = ends[first[k + 1] - 1] = true;
    }
    cells_of(points, n, square, 0, grid.column, &grid.wide);
    cells_of(points, n, square, 1, grid.row, &grid.high);
    begins = calloc((size_t)(grid.wide * grid.high) + 1, sizeof(int64_t));
    if (!begins) goto out;
    for (int64_t k = 0; k + 1 < n; k++)
        if (line[k] >= 0) FOR_CELLS(grid, k, cell) begins[cell]++;
    for (int64_t cell = 0; cell < grid.wide * grid.high; cell++) begins[cell + 1] += begins[cell];
    held = malloc(sizeof(int64_t) * ((size_t)begins[grid.wide * grid.high] + 1));
    if (!held) goto out;
    for (int64_t k = 0; k + 1 < n; k++) /* from the back, so that in the end each is where its cell begins */
        if (line[k] >= 0) FOR_CELLS(grid, k, cell) held[--begins[cell]] = k;
    Pieces all = {points, ends, nought};
    for (int64_t cell = 0; cell < grid.wide * grid.high; cell++)
        for (int64_t i = begins[cell] + 1; i < begins[cell + 1]; i++) {
            int64_t b = held[i];
            double left = min_double(points[2 * b], points[2 * b + 2]), right = max_double(points[2 * b], points[2 * b + 2]);
            double top = min_double(points[2 * b + 1], points[2 * b + 3]);
            double bottom = max_double(points[2 * b + 1], points[2 * b + 3]);
            for (int64_t j = begins[cell]; j < i; j++) {
                int64_t a = held[j];
                const double *p = points + 2 * a;
                if (min_double(p[0], p[2]) <= right && max_double(p[0], p[2]) >= left &&
                    min_double(p[1], p[3]) <= bottom && max_double(p[1], p[3]) >= top && meet(&all, a, b))
                    wrong[line[a]] = wrong[line[b]] = true;
            }
        }
    done = 0;
out:
    free(line); free(cells); free(ends); free(begins); free(held);
    return done;
}

/* Walks along lines with the same face to the left all the way round: the ends at which lines are entered, 2k for the
 * start of line k and 2k + 1 for its end, where among these each walk begins, and its face.
 *
 * Of each end (n,) node, way (0 right, 1 down, 2 left, 3 up) and the face left of a line entered there, ``outside`` for
 * none; table (nodes, 4) is the end that goes each way from a node, NONE where none does. Returns the number of walks. */
int64_t walk_faces(const int64_t *node, const int64_t *way, const int64_t *table, const int64_t *face, int64_t n,
                   int64_t outside, int64_t *ends, int64_t *begins, int64_t *labels) {
    static const int turns[3] = {1, 0, 3}; /* right before on and left: a face that touches itself has a hole there */
    bool *done = calloc((size_t)n + 1, 1);
    int64_t walks = 0, at = 0;
    if (!done) return NO_MEMORY;
    for (int64_t start = 0; start < n; start++) {
        if (done[start] || face[start] == outside) continue;
        begins[walks] = at;
        labels[walks++] = face[start];
        for (int64_t end = start; !done[end];) {
            done[end] = true;
            ends[at++] = end;
            int64_t other = end ^ 1;
            for (int t = 0; t < 3; t++) {
                int64_t next = table[4 * node[other] + (way[other] + 2 + turns[t]) % 4];
                if (next != NONE && face[next] == face[start]) { end = next; break; }
            }
        }
    }
    begins[walks] = at;
    free(done);
    return walks;
}

/* The walks as rings of points (room for 2 n), where each begins among these (walks + 1,), and twice its signed area
 * (walks,), by the shoelace formula. Returns how many points. */
int64_t ring_points(const double *points, const int64_t *first, const int64_t *ends, const int64_t *begins,
                    int64_t walks, double *around, int64_t *rings, double *areas) {
    int64_t at = 0;
    rings[0] = 0;
    for (int64_t walk = 0; walk < walks; walk++) {
        for (int64_t e = begins[walk]; e < begins[walk + 1]; e++) {
            int64_t low = first[ends[e] >> 1], high = first[(ends[e] >> 1) + 1];
            for (int64_t k = 0; k < high - low - 1; k++, at++) { /* its last point is the next one's first */
                int64_t place = ends[e] & 1 ? high - 1 - k : low + k;
                around[2 * at] = points[2 * place];
                around[2 * at + 1] = points[2 * place + 1];
            }
        }
        rings[walk + 1] = at;
        double twice = 0;
        for (int64_t k = rings[walk]; k < at; k++) {
            int64_t next = k + 1 < at ? k + 1 : rings[walk];
            twice += around[2 * k] * around[2 * next + 1] - around[2 * next] * around[2 * k + 1];
        }
        areas[walk] = twice;
    }
    return at;
}
