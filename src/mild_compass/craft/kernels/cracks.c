/* Crack edges of a label map: the sides between pixels of different labels, as segments, linked into chains from junction
 * to junction. A label map comes with a rim of one pixel all round. */
#include "kernels.h"

/* Whether exactly two sides meet in a corner of pixels. */
INLINE bool is_plain(const int32_t *above, const int32_t *below, int64_t x) {
    int32_t a = above[x], b = above[x + 1], c = below[x], d = below[x + 1];
    return (a != b) + (c != d) + (a != c) + (b != d) == 2;
}

/* Level runs of sides in a map (h, w), as segments (x, y, x, y): a run ends where the border turns or where more than two
 * sides meet. Upright ones of the transposed map where ``upright``. Returns how many. */
static int64_t find_level(const int32_t *padded, int64_t h, int64_t w, int64_t *sides, int upright) {
    int64_t count = 0, along = upright, across = 1 - upright;
    for (int64_t y = 0; y < h - 1; y++) {
        const int32_t *above = padded + y * w, *below = above + w;
        for (int64_t x = 0; x < w - 1; x++) {
            bool behind = above[x] != below[x], ahead = above[x + 1] != below[x + 1];
            if (!behind && !ahead) continue;
            bool through = behind && ahead && is_plain(above, below, x);
            if (behind && !through) {
                sides[4 * count + 2 + along] = x;
                sides[4 * count + 2 + across] = y;
                count++;
            }
            if (ahead && !through) {
                sides[4 * count + along] = x;
                sides[4 * count + across] = y;
            }
        }
    }
    return count;
}

/* All segments (n, 2, 2) of a padded map (h, w) and its transpose (w, h), level ones first; sides has room for
 * 2 · h · w of them. Returns n. */
int64_t find_segments(const int32_t *padded, const int32_t *transposed, int64_t h, int64_t w, int64_t *sides) {
    int64_t level = find_level(padded, h, w, sides, 0);
    return level + find_level(transposed, w, h, sides + 4 * level, 1);
}

/* Segments put one behind another where exactly two meet, and round and round where they close.
 *
 * ``corners`` is the number of corners of pixels, ``w`` of a row of them. Written: entries (n,), the ends by which
 * segments are entered, 2k for the start of segment k and 2k + 1 for its end; begins (n + 1,), where each chain begins
 * among these. Returns the number of chains. */
int64_t link_segments(const int64_t *sides, int64_t n, int64_t corners, int64_t w, int64_t *entries, int64_t *begins) {
    int64_t *meeting = malloc(sizeof(int64_t) * ((size_t)corners + 1)), *partner = malloc(sizeof(int64_t) * (2 * (size_t)n + 1));
    uint8_t *many = calloc((size_t)corners + 1, 1);
    bool *done = calloc((size_t)n + 1, 1);
    int64_t chains = NO_MEMORY;
    if (!meeting || !partner || !many || !done) goto out;
    for (int64_t end = 0; end < 2 * n; end++) partner[end] = NONE;
    for (int64_t end = 0; end < 2 * n; end++) {
        const int64_t *at = sides + 4 * (end >> 1) + 2 * (end & 1);
        int64_t node = at[1] * w + at[0];
        many[node]++;
        if (many[node] == 2) {
            partner[end] = meeting[node];
            partner[meeting[node]] = end;
        } else if (many[node] == 3) {
            partner[partner[meeting[node]]] = NONE;
            partner[meeting[node]] = NONE;
        }
        if (many[node] < 3) meeting[node] = end;
    }
    int64_t at = 0;
    chains = 0;
    for (int turn = 0; turn < 2; turn++)
        for (int64_t begin = 0; begin < 2 * n; begin += 1 + turn) {
            if (done[begin >> 1] || (turn == 0 && partner[begin] >= 0)) continue;
            begins[chains++] = at;
            for (int64_t entry = begin; entry >= 0 && !done[entry >> 1]; entry = partner[entry ^ 1]) {
                done[entry >> 1] = true;
                entries[at++] = entry;
            }
        }
    begins[chains] = at;
out:
    free(meeting); free(partner); free(many); free(done);
    return chains;
}

/* Chains side by side of pixels: the middle of each and the way to its left (total, 2), where each chain begins among
 * these (chains + 1,), its ends (chains, 2, 2), and the labels to its left and right (chains, 2). */
void walk_chains(const int32_t *padded, int64_t w, const int64_t *sides, const int64_t *entries, const int64_t *begins,
                 int64_t chains, double *middles, double *asides, int64_t *first, double *ends, int64_t *beside) {
    int64_t at = 0;
    first[0] = 0;
    for (int64_t chain = 0; chain < chains; chain++) {
        for (int64_t e = begins[chain]; e < begins[chain + 1]; e++) {
            const int64_t *side = sides + 4 * (entries[e] >> 1);
            const int64_t *start = side + 2 * (entries[e] & 1), *stop = side + 2 * (1 - (entries[e] & 1));
            int64_t length = llabs(stop[0] - start[0]) + llabs(stop[1] - start[1]);
            double way_x = (double)(stop[0] - start[0]) / (double)length;
            double way_y = (double)(stop[1] - start[1]) / (double)length;
            if (e == begins[chain]) {
                ends[4 * chain] = (double)start[0];
                ends[4 * chain + 1] = (double)start[1];
                double x = (double)start[0] + way_x / 2, y = (double)start[1] + way_y / 2;
                beside[2 * chain] = padded[(int64_t)(y - way_x / 2 + 1) * w + (int64_t)(x + way_y / 2 + 1)];
                beside[2 * chain + 1] = padded[(int64_t)(y + way_x / 2 + 1) * w + (int64_t)(x - way_y / 2 + 1)];
            }
            for (int64_t k = 0; k < length; k++, at++) {
                middles[2 * at] = (double)start[0] + ((double)k + 0.5) * way_x;
                middles[2 * at + 1] = (double)start[1] + ((double)k + 0.5) * way_y;
                asides[2 * at] = way_y;
                asides[2 * at + 1] = -way_x;
            }
            ends[4 * chain + 2] = (double)stop[0];
            ends[4 * chain + 3] = (double)stop[1];
        }
        first[chain + 1] = at;
    }
}

/* Sub-pixel place of a border: how far toward the left pixel of each side (n,) from half way a picture (h, w) passes the
 * middle between the two values, in pixels; at most half of one, and nought where it does not pass or rises by less than
 * ``least`` L*. */
void find_shifts(const double *middles, const double *asides, int64_t n, const float *lightness, const uint8_t *steps,
                 int64_t h, int64_t w, const double *shown, double least, double *found) {
    for (int64_t k = 0; k < n; k++) {
        double x = middles[2 * k], y = middles[2 * k + 1], aside_x = asides[2 * k], aside_y = asides[2 * k + 1];
        int64_t u = (int64_t)floor(x + aside_x / 2), v = (int64_t)floor(y + aside_y / 2);
        int64_t i = (int64_t)floor(x - aside_x / 2), j = (int64_t)floor(y - aside_y / 2);
        found[k] = 0;
        if (u < 0 || v < 0 || i < 0 || j < 0 || u >= w || i >= w || v >= h || j >= h) continue;
        double here = lightness[v * w + u], there = lightness[j * w + i], rise = here - there;
        double own = shown[steps[v * w + u]], level = (own + shown[steps[j * w + i]]) / 2;
        if (fabs(rise) < least || rise * (own - level) <= 0) continue;
        double share = (level - there) / rise;
        if (0 <= share && share <= 1) found[k] = share - 0.5;
    }
}
