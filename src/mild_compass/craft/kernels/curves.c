/* Chains of crack edges as curves: corners by two lines that meet, local quadratic regression between them (W. S.
 * Cleveland, J. Am. Stat. Assoc. 74, 1979), corner cutting (G. Chaikin, Computer Graphics and Image Processing 3, 1974)
 * and line simplification (D. Douglas & T. Peucker, Cartographica 10, 1973).
 *
 * A run is places (n, 2) from first[k] to first[k + 1], with the points half a step before and behind it, and whether it
 * closes. */
#include "kernels.h"

/* A run as x and y (2, n + 2 reach), so that one may look ``reach`` beyond its ends: round and round where it closes;
 * turned about the end where not, so that it is held there and comes in straight. ``stride`` is the length of a row. */
static void pad_run(const double *places, int64_t n, const double *ends, bool closed, int64_t reach, double *spots,
                    int64_t stride) {
    for (int axis = 0; axis < 2; axis++) {
        double *spot = spots + axis * stride;
        for (int64_t k = 0; k < n; k++) spot[reach + k] = places[2 * k + axis];
        for (int64_t k = 0; k < reach; k++) {
            if (closed) {
                int64_t behind = (k - reach) % n;
                spot[k] = places[2 * (behind < 0 ? behind + n : behind) + axis];
                spot[reach + n + k] = places[2 * (k % n) + axis];
            } else {
                spot[k] = 2 * ends[axis] - places[2 * min_int(reach - 1 - k, n - 1) + axis];
                spot[reach + n + k] = 2 * ends[2 + axis] - places[2 * max_int(n - 1 - k, 0) + axis];
            }
        }
    }
}

/* Total least squares lines through so many spots from each on, as rows of ``lines`` (5, stride): middle, unit way, and
 * the root mean square distance from it. sums (5, stride) is room. */
WIDE static void fit_lines(const double *spots, int64_t spot_stride, int64_t spot_count, int64_t length, double *lines,
                      double *sums, int64_t stride) {
    int64_t count = spot_count - length + 1;
    const double *restrict sx = spots, *restrict sy = spots + spot_stride;
    double *restrict x = sums, *restrict y = sums + stride, *restrict xx = sums + 2 * stride;
    double *restrict yy = sums + 3 * stride, *restrict xy = sums + 4 * stride;
    for (int64_t k = 0; k < count; k++) x[k] = y[k] = xx[k] = yy[k] = xy[k] = 0;
    for (int64_t j = 0; j < length; j++)
        for (int64_t k = 0; k < count; k++) {
            x[k] += sx[j + k];
            y[k] += sy[j + k];
        }
    for (int64_t k = 0; k < count; k++) {
        x[k] /= (double)length;
        y[k] /= (double)length;
    }
    for (int64_t j = 0; j < length; j++)
        for (int64_t k = 0; k < count; k++) {
            double off_x = sx[j + k] - x[k], off_y = sy[j + k] - y[k];
            xx[k] += off_x * off_x;
            yy[k] += off_y * off_y;
            xy[k] += off_x * off_y;
        }
    for (int64_t k = 0; k < count; k++) {
        double apart = sqrt((xx[k] - yy[k]) * (xx[k] - yy[k]) + 4 * (xy[k] * xy[k]));
        /* Half the angle whose cosine that is; where the spots lie all round any way will do. */
        double cosine = apart > 0 ? (xx[k] - yy[k]) / apart : 1.0;
        double way_x = sqrt(max_double(0.5 + 0.5 * cosine, 0.0)), way_y = sqrt(max_double(0.5 - 0.5 * cosine, 0.0));
        if (xy[k] < 0) way_y = -way_y;
        double along = way_x * (sx[k + length - 1] - sx[k]) + way_y * (sy[k + length - 1] - sy[k]);
        lines[k] = x[k];
        lines[stride + k] = y[k];
        lines[2 * stride + k] = along >= 0 ? way_x : -way_x;
        lines[3 * stride + k] = along >= 0 ? way_y : -way_y;
        lines[4 * stride + k] = sqrt(max_double((xx[k] + yy[k] - apart) / (double)(2 * length), 0.0));
    }
}

INLINE double cosine_between(const double *lines, int64_t stride, int64_t one, int64_t other) {
    return lines[2 * stride + one] * lines[2 * stride + other] + lines[3 * stride + one] * lines[3 * stride + other];
}

INLINE double degrees_between(const double *lines, int64_t stride, int64_t one, int64_t other) {
    double cosine = cosine_between(lines, stride, one, other);
    return acos(min_double(1.0, max_double(-1.0, cosine))) * (180.0 / 3.14159265358979323846);
}

/* Corners: places before which two straight lines of ``length`` sides meet that turn by more than most_cosine tells, each
 * no further off straight than most_miss, of which lines of ``shorter`` see at least ``sharpness``. Written, with room
 * for all places: which, turns (degrees), misses, and the lines behind and ahead, each a place and a way (n, 4).
 * Returns how many. */
int64_t find_corners(const double *places, const int64_t *first, int64_t runs, const double *ends,
                          const bool *closed, int64_t length, int64_t shorter, int64_t skipped, double most_miss,
                          double most_cosine, double sharpness, int64_t *which, double *turns, double *misses,
                          double *back, double *on) {
    int64_t reach = length + skipped, longest = 0, count = 0;
    for (int64_t run = 0; run < runs; run++) longest = max_int(longest, first[run + 1] - first[run]);
    int64_t stride = longest + 2 * reach + 1;
    double *rooms = malloc(sizeof(double) * 17 * (size_t)stride);
    if (!rooms) return NO_MEMORY;
    double *spots = rooms, *lines = rooms + 2 * stride, *shorts = rooms + 7 * stride, *sums = rooms + 12 * stride;
    for (int64_t run = 0; run < runs; run++) {
        int64_t size = first[run + 1] - first[run], spot_count = size + 2 * reach;
        if (!closed[run] && size < 2 * reach) continue;
        pad_run(places + 2 * first[run], size, ends + 4 * run, closed[run], reach, spots, stride);
        fit_lines(spots, stride, spot_count, length, lines, sums, stride);
        fit_lines(spots, stride, spot_count, shorter, shorts, sums, stride);
        for (int64_t k = 0; k < size; k++) {
            if (!closed[run] && !(reach <= k && k <= size - reach)) continue;
            int64_t far = k + reach + skipped;
            bool straight = max_double(lines[4 * stride + k], lines[4 * stride + far]) < most_miss;
            if (!straight || cosine_between(lines, stride, k, far) >= most_cosine) continue;
            double turn = degrees_between(lines, stride, k, far);
            if (!(degrees_between(shorts, stride, k + length - shorter, far) > sharpness * turn)) continue;
            which[count] = first[run] + k;
            turns[count] = turn;
            misses[count] = lines[4 * stride + k];
            for (int j = 0; j < 4; j++) {
                back[4 * count + j] = lines[j * stride + k];
                on[4 * count + j] = lines[j * stride + far];
            }
            count++;
        }
    }
    free(rooms);
    return count;
}

/* Non-maximum suppression along runs: places (n,) in order of falling strength, with the run of each and where the
 * places of each run begin and end among all; none is kept (n,) within ``apart`` places of a stronger one. */
void suppress_weaker(const int64_t *order, const double *strength, const int64_t *which, const int64_t *run_of,
                     const int64_t *low, const int64_t *high, int64_t n, const int64_t *first, const bool *closed,
                     int64_t apart, bool *kept) {
    for (int64_t i = 0; i < n; i++) {
        int64_t k = order[i], run = run_of[k];
        if (strength[k] <= 0) break;
        int64_t size = closed[run] ? first[run + 1] - first[run] : (int64_t)1 << 40;
        bool free_place = true;
        for (int64_t other = low[k]; other < high[k] && free_place; other++) {
            int64_t gap = llabs(which[k] - which[other]);
            free_place = !(kept[other] && min_int(gap, size - gap) < apart);
        }
        kept[k] = free_place;
    }
}

/* One piece (n, 2) averaged with ``weight`` (2·reach + 1,), into found (n, 2). spots (2, stride) and sums (2, stride)
 * are room. */
WIDE static void smooth_piece(const double *places, int64_t n, const double *ends, bool closed, const double *weight,
                         int64_t reach, double *spots, double *sums, int64_t stride, double *found) {
    pad_run(places, n, ends, closed, reach, spots, stride);
    for (int axis = 0; axis < 2; axis++) {
        double *restrict sum = sums + axis * stride;
        const double *restrict spot = spots + axis * stride;
        for (int64_t k = 0; k < n; k++) sum[k] = 0;
        for (int64_t j = 0; j <= 2 * reach; j++)
            for (int64_t k = 0; k < n; k++) sum[k] += weight[j] * spot[k + j];
        for (int64_t k = 0; k < n; k++) found[2 * k + axis] = sum[k];
    }
}

/* The places (n, 2) of runs smoothed in the pieces between their corners: before[c] (rising) is the place before which
 * corner c lies, corner (c, 2) the point itself. A closed run is cut open at its first corner, which ends the last piece
 * too. */
int64_t smooth_runs(const double *places, const int64_t *first, int64_t runs, const double *ends,
                         const bool *closed, const int64_t *before, const double *corner, int64_t corners,
                         const double *weight, int64_t reach, double *found) {
    int64_t longest = 0, at = 0;
    for (int64_t run = 0; run < runs; run++) longest = max_int(longest, first[run + 1] - first[run]);
    int64_t stride = longest + 2 * reach + 1;
    double *rooms = malloc(sizeof(double) * 8 * (size_t)stride);
    if (!rooms) return NO_MEMORY;
    double *spots = rooms, *sums = rooms + 2 * stride, *rolled = rooms + 4 * stride, *eased = rooms + 6 * stride;
    for (int64_t run = 0; run < runs; run++) {
        int64_t start = first[run], stop = first[run + 1], size = stop - start, one = at;
        while (at < corners && before[at] < stop) at++;
        if (one == at) {
            smooth_piece(places + 2 * start, size, ends + 4 * run, closed[run], weight, reach, spots, sums, stride,
                         found + 2 * start);
            continue;
        }
        const double *own = places + 2 * start;
        int64_t begin = start;
        if (closed[run]) {
            begin = before[one];
            memcpy(rolled, places + 2 * begin, sizeof(double) * 2 * (size_t)(stop - begin));
            memcpy(rolled + 2 * (stop - begin), places + 2 * start, sizeof(double) * 2 * (size_t)(begin - start));
            own = rolled;
        }
        int64_t pieces = at - one + (closed[run] ? 0 : 1);
        for (int64_t piece = 0; piece < pieces; piece++) {
            int64_t low = one + piece - (closed[run] ? 0 : 1);
            const double *from = low >= one ? corner + 2 * low : ends + 4 * run;
            const double *to = low + 1 < at ? corner + 2 * (low + 1) : closed[run] ? corner + 2 * one : ends + 4 * run + 2;
            double between[4] = {from[0], from[1], to[0], to[1]};
            int64_t left = low >= one ? before[low] - begin : 0, right = low + 1 < at ? before[low + 1] - begin : size;
            smooth_piece(own + 2 * left, right - left, between, false, weight, reach, spots, sums, stride,
                         eased + 2 * left);
        }
        memcpy(found + 2 * begin, eased, sizeof(double) * 2 * (size_t)(stop - begin));
        memcpy(found + 2 * start, eased + 2 * (stop - begin), sizeof(double) * 2 * (size_t)(begin - start));
    }
    free(rooms);
    return 0;
}

/* Points (n, 2) brought to at most so far from their middles, in place. */
void hold_near(double *points, const double *middles, int64_t n, double most) {
    for (int64_t k = 0; k < n; k++) {
        double off_x = points[2 * k] - middles[2 * k], off_y = points[2 * k + 1] - middles[2 * k + 1];
        double far = sqrt(off_x * off_x + off_y * off_y);
        if (far > most) {
            points[2 * k] = middles[2 * k] + off_x * most / far;
            points[2 * k + 1] = middles[2 * k + 1] + off_y * most / far;
        }
    }
}

/* The points of all lines, whether each is held fast, and its line: a border's ends, its places, and in those that are
 * curved its corners; of the picture's own edge its ends and the picture's corners. Room for places + corners + 2 m + 4.
 * Returns how many. */
int64_t assemble_lines(const double *places, const int64_t *first, int64_t m, const double *ends, const bool *inner,
                       const bool *curved, const int64_t *before, const double *corner, int64_t corners, double *points,
                       bool *fast, int64_t *which) {
    int64_t count = 0, at = 0;
#define PUT(x_, y_, fast_) (points[2 * count] = (x_), points[2 * count + 1] = (y_), fast[count] = (fast_), which[count++] = k)
    for (int64_t k = 0; k < m; k++) {
        PUT(ends[4 * k], ends[4 * k + 1], true);
        while (at < corners && before[at] <= first[k]) at++;
        for (int64_t place = first[k]; place < first[k + 1]; place++) {
            double x = places[2 * place], y = places[2 * place + 1];
            if (at < corners && before[at] == place) {
                if (curved[k] && inner[k]) PUT(corner[2 * at], corner[2 * at + 1], true);
                at++;
            }
            if (inner[k]) {
                PUT(x, y, false);
            } else if (place > first[k]) {
                double last_x = places[2 * place - 2], last_y = places[2 * place - 1];
                if (fabs(x - last_x) > 1e-9 && fabs(y - last_y) > 1e-9) {
                    bool level = fabs(y - rint(y)) < 1e-9;
                    PUT(level ? last_x : x, level ? y : last_y, true);
                }
            }
        }
        PUT(ends[4 * k + 2], ends[4 * k + 3], true);
    }
#undef PUT
    return count;
}

/* Lines, one after another, with the points at which they turn more sharply than sharp_cosine cut off, but for those held
 * fast, as their ends are. Room for 2 n. Returns how many points. */
int64_t cut_corners(const double *points, const bool *fast, const int64_t *which, int64_t n, double sharp_cosine,
                    double *made, bool *held, int64_t *of) {
    int64_t count = 0;
    for (int64_t k = 0; k < n; k++) {
        double x = points[2 * k], y = points[2 * k + 1], here_x = 0, here_y = 0, there_x = 0, there_y = 0;
        bool cut = false;
        if (!fast[k]) {
            here_x = x - points[2 * k - 2];
            here_y = y - points[2 * k - 1];
            there_x = points[2 * k + 2] - x;
            there_y = points[2 * k + 3] - y;
            double length = sqrt((here_x * here_x + here_y * here_y) * (there_x * there_x + there_y * there_y));
            cut = here_x * there_x + here_y * there_y < sharp_cosine * length;
        }
        made[2 * count] = cut ? x - here_x / 4 : x;
        made[2 * count + 1] = cut ? y - here_y / 4 : y;
        held[count] = fast[k];
        of[count++] = which[k];
        if (cut) {
            made[2 * count] = x + there_x / 4;
            made[2 * count + 1] = y + there_y / 4;
            held[count] = fast[k];
            of[count++] = which[k];
        }
    }
    return count;
}

/* Which point between two lies furthest from the segment between these, and how far; the first of equal ones. */
static int64_t furthest_of(const double *points, int64_t low, int64_t high, double *far) {
    double x = points[2 * low], y = points[2 * low + 1];
    double along_x = points[2 * high] - x, along_y = points[2 * high + 1] - y;
    double length = along_x * along_x + along_y * along_y, most = 0;
    int64_t furthest = low;
    for (int64_t k = low + 1; k < high; k++) {
        double dx = points[2 * k] - x, dy = points[2 * k + 1] - y;
        double share = length > 0 ? (dx * along_x + dy * along_y) / length : 0.0;
        share = min_double(max_double(share, 0.0), 1.0);
        double off_x = dx - share * along_x, off_y = dy - share * along_y, off = off_x * off_x + off_y * off_y;
        if (off > most) { furthest = k; most = off; }
    }
    *far = sqrt(most);
    return furthest;
}

/* Which points of lines, one after another, stay (n,) when those no further than ``most`` off the segment between the two
 * that stay are left out. */
int64_t simplify_lines(const double *points, const int64_t *which, int64_t n, double most, bool *stays) {
    int64_t *parts = malloc(sizeof(int64_t) * 2 * ((size_t)n + 2));
    if (!parts) return NO_MEMORY;
    memset(stays, 0, (size_t)n);
    for (int64_t start = 0, last; start < n; start = last + 1) {
        last = start;
        while (last + 1 < n && which[last + 1] == which[start]) last++;
        stays[start] = stays[last] = true;
        parts[0] = start;
        parts[1] = last;
        for (int64_t left = 1; left;) {
            left--;
            int64_t low = parts[2 * left], high = parts[2 * left + 1];
            double far;
            int64_t furthest = furthest_of(points, low, high, &far);
            if (far <= most) continue;
            stays[furthest] = true;
            parts[2 * left] = low;
            parts[2 * left + 1] = furthest;
            parts[2 * left + 2] = furthest;
            parts[2 * left + 3] = high;
            left += 2;
        }
    }
    free(parts);
    return 0;
}
