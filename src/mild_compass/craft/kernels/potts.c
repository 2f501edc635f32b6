/* Checkerboard ICM sweeps on a Potts energy (J. Besag, J. Royal Stat. Soc. B 48, 1986): thresholding, and the descent. */
#include "kernels.h"

#define NO_VALUE 7 /* the rim; there are at most seven values, 0 to 6 */

/* How many of the marks (n,) each pixel's L* reaches. */
WIDE void count_reached(const float *lightness, int64_t size, const float *marks, int64_t n, uint8_t *found) {
    enum { BLOCK = 2048 };
    for (int64_t begin = 0; begin < size; begin += BLOCK) {
        int64_t end = min_int(begin + BLOCK, size);
        for (int64_t k = begin; k < end; k++) found[k] = 0;
        for (int64_t m = 0; m < n; m++)
            for (int64_t k = begin; k < end; k++) found[k] += lightness[k] >= marks[m];
    }
}

INLINE bool differ(uint8_t one, uint8_t other) { return (one != other) & (other != NO_VALUE); }

/* The pixels beside another value, by colour of the chessboard. */
WIDE static void list_borders(const uint8_t *rimmed, int64_t high, int64_t wide, int32_t *const lists[2], bool *listed,
                              int64_t *numbers) {
    for (int64_t y = 1; y < high - 1; y++) {
        const uint8_t *row = rimmed + y * wide, *above = row - wide, *below = row + wide;
        bool *here = listed + y * wide;
        for (int64_t x = 1; x < wide - 1; x++)
            here[x] = differ(row[x], above[x]) | differ(row[x], below[x]) | differ(row[x], row[x - 1]) |
                      differ(row[x], row[x + 1]);
    }
    for (int colour = 0; colour < 2; colour++) {
        int64_t count = 0;
        int32_t *into = lists[colour];
        for (int64_t y = 1; y < high - 1; y++)
            for (int64_t x = 1 + (y + 1 + colour) % 2; x < wide - 1; x += 2) {
                into[count] = (int32_t)(y * wide + x);
                count += listed[y * wide + x];
            }
        numbers[colour] = count;
    }
}

typedef struct {
    uint32_t *alike; /* how many of the four neighbours have each value, four bits for each */
    float *here, *price, *least, *dearer;
    uint8_t *best;
} Sweep;

/* The value that costs each listed pixel least, its four neighbours being as they are; the darker of equal ones. */
WIDE static void find_cheapest(const uint8_t *values, const float *light, const float *prices, bool even,
                               const float *marks, const float *rises, int64_t n, const int32_t *places, int64_t count,
                               int64_t wide, const Sweep *sweep) {
    uint32_t *restrict alike = sweep->alike;
    float *restrict here = sweep->here, *restrict price = sweep->price, *restrict least = sweep->least;
    float *restrict dearer = sweep->dearer;
    uint8_t *restrict best = sweep->best;
    for (int64_t k = 0; k < count; k++) {
        int64_t place = places[k];
        alike[k] = (1u << (4 * values[place - wide])) + (1u << (4 * values[place + wide])) +
                   (1u << (4 * values[place - 1])) + (1u << (4 * values[place + 1]));
        here[k] = light[place];
        price[k] = even ? prices[0] : prices[place];
    }
    for (int64_t k = 0; k < count; k++) {
        best[k] = 0;
        dearer[k] = 0;
        least[k] = -price[k] * (float)(int32_t)(alike[k] & 15u);
    }
    for (int64_t value = 1; value <= n; value++) {
        float mark = marks[value - 1], rise = rises[value - 1];
        uint32_t shift = (uint32_t)(4 * value);
        for (int64_t k = 0; k < count; k++) {
            dearer[k] += rise * (mark - here[k]);
            float cost = dearer[k] - price[k] * (float)(int32_t)((alike[k] >> shift) & 15u);
            best[k] = cost < least[k] ? (uint8_t)value : best[k];
            least[k] = cost < least[k] ? cost : least[k];
        }
    }
}

static void put_in_rim(const float *picture, int64_t h, int64_t w, float *rimmed) {
    for (int64_t y = 0; y < h; y++) memcpy(rimmed + (y + 1) * (w + 2) + 1, picture + y * w, sizeof(float) * (size_t)w);
}

/* Sweeps until no listed pixel would change, at most ``most`` of them: every second pixel at a border takes what is
 * cheapest beside its neighbours. ``steps`` (h, w) is read and written; a value's cost rises over the one before by
 * rises[k] · (marks[k] - L*); a side beside another value costs prices, (h, w) or one where ``even``. */
int64_t descend(uint8_t *steps, const float *lightness, int64_t h, int64_t w, const float *marks, const float *rises,
                int64_t n, const float *prices, int64_t even, int64_t most) {
    int64_t high = h + 2, wide = w + 2, size = high * wide, done = NO_MEMORY;
    uint8_t *values = malloc((size_t)size), *best = malloc((size_t)size);
    float *light = calloc((size_t)size, sizeof(float)), *dear = even ? NULL : calloc((size_t)size, sizeof(float));
    int32_t *lists[2] = {malloc(sizeof(int32_t) * (size_t)size), malloc(sizeof(int32_t) * (size_t)size)};
    bool *listed = calloc((size_t)size, 1);
    uint32_t *alike = malloc(sizeof(uint32_t) * (size_t)size);
    float *rooms = malloc(sizeof(float) * 4 * (size_t)size);
    if (!values || !best || !light || (!even && !dear) || !lists[0] || !lists[1] || !listed || !alike || !rooms)
        goto out;
    memset(values, NO_VALUE, (size_t)size);
    for (int64_t y = 0; y < h; y++) memcpy(values + (y + 1) * wide + 1, steps + y * w, (size_t)w);
    put_in_rim(lightness, h, w, light);
    if (!even) put_in_rim(prices, h, w, dear);
    Sweep sweep = {alike, rooms, rooms + size, rooms + 2 * size, rooms + 3 * size, best};
    int64_t numbers[2];
    list_borders(values, high, wide, lists, listed, numbers);
    for (int64_t turn = 0; turn < most && (numbers[0] || numbers[1]); turn++) {
        int mine = (int)(turn % 2);
        int32_t *now = lists[mine], *then = lists[1 - mine];
        int64_t count = numbers[mine];
        find_cheapest(values, light, even ? prices : dear, even, marks, rises, n, now, count, wide, &sweep);
        for (int64_t k = 0; k < count; k++) { /* pixels of one colour do not touch: they may change at once */
            int64_t place = now[k];
            listed[place] = false;
            if (best[k] == values[place]) continue;
            values[place] = best[k];
            const int64_t around[4] = {place - wide, place + wide, place - 1, place + 1};
            for (int j = 0; j < 4; j++)
                if (!listed[around[j]] && values[around[j]] != NO_VALUE) {
                    listed[around[j]] = true;
                    then[numbers[1 - mine]++] = (int32_t)around[j];
                }
        }
        numbers[mine] = 0;
    }
    for (int64_t y = 0; y < h; y++) memcpy(steps + y * w, values + (y + 1) * wide + 1, (size_t)w);
    done = 0;
out:
    free(values); free(best); free(light); free(dear); free(lists[0]); free(lists[1]); free(listed); free(alike);
    free(rooms);
    return done;
}
