/* A region adjacency graph whose regions merge, and the two greedy mergings on it.
 *
 * A border between two regions is two half-edges, 2k and 2k + 1, each in the doubly linked list of its region: of each
 * the region beyond, its length, and the half-edges after and before it in that list. */
#include "kernels.h"

static void link(int64_t *first, int64_t *after, int64_t *before, int64_t half, int64_t region) {
    after[half] = first[region];
    before[half] = NONE;
    if (first[region] != NONE) before[first[region]] = half;
    first[region] = half;
}

static void unlink_half(int64_t *first, int64_t *after, int64_t *before, int64_t half, int64_t region) {
    if (before[half] == NONE) first[region] = after[half];
    else after[before[half]] = after[half];
    if (after[half] != NONE) before[after[half]] = before[half];
}

bool adjacency_of(Adjacency *graph, const int64_t *one, const int64_t *other, const double *lengths, int64_t pairs,
                  int64_t regions) {
    size_t halves = 2 * (size_t)pairs + 1, all = (size_t)regions + 1;
    graph->first = malloc(sizeof(int64_t) * all);
    graph->toward = malloc(sizeof(int64_t) * all);
    graph->beyond = malloc(sizeof(int64_t) * halves);
    graph->after = malloc(sizeof(int64_t) * halves);
    graph->before = malloc(sizeof(int64_t) * halves);
    graph->length = malloc(sizeof(double) * halves);
    if (!graph->first || !graph->toward || !graph->beyond || !graph->after || !graph->before || !graph->length) {
        adjacency_free(graph);
        return false;
    }
    for (int64_t r = 0; r < regions; r++) graph->first[r] = graph->toward[r] = NONE;
    for (int64_t k = pairs - 1; k >= 0; k--) {
        graph->beyond[2 * k] = other[k];
        link(graph->first, graph->after, graph->before, 2 * k, one[k]);
        graph->beyond[2 * k + 1] = one[k];
        link(graph->first, graph->after, graph->before, 2 * k + 1, other[k]);
        graph->length[2 * k] = graph->length[2 * k + 1] = lengths[k];
    }
    return true;
}

void adjacency_free(Adjacency *graph) {
    free(graph->first); free(graph->toward); free(graph->beyond); free(graph->after); free(graph->before);
    free(graph->length);
}

static void point_toward(const Adjacency *graph, int64_t region, bool there) {
    for (int64_t half = graph->first[region]; half != NONE; half = graph->after[half])
        graph->toward[graph->beyond[half]] = there ? half : NONE;
}

/* Let one region be part of another: borders with the same neighbour become one. */
void adjacency_join(const Adjacency *graph, int64_t gone, int64_t kept) {
    int64_t *first = graph->first, *after = graph->after, *before = graph->before, *beyond = graph->beyond;
    point_toward(graph, kept, true);
    int64_t half = first[gone];
    while (half != NONE) {
        int64_t there = beyond[half], next = after[half], known = graph->toward[beyond[half]];
        if (there == kept) {
            unlink_half(first, after, before, half ^ 1, kept);
        } else if (known != NONE) {
            unlink_half(first, after, before, half ^ 1, there);
            graph->length[known] += graph->length[half];
            graph->length[known ^ 1] = graph->length[known];
        } else {
            beyond[half ^ 1] = kept;
            link(first, after, before, half, kept);
        }
        half = next;
    }
    first[gone] = graph->toward[gone] = NONE;
    point_toward(graph, kept, false);
}

/* A binary heap of merges, the least first by (stays, ratio, size, value, region, age), which is a total order, so that
 * what comes out does not hang on how it is kept. */
typedef struct {
    double ratio, size;
    int64_t value, region, age;
    int stays;
} Merge;

typedef struct {
    Merge *held;
    int64_t count, room;
} Heap;

INLINE bool less(const Merge *a, const Merge *b) {
    if (a->stays != b->stays) return a->stays < b->stays;
    if (a->ratio != b->ratio) return a->ratio < b->ratio;
    if (a->size != b->size) return a->size < b->size;
    if (a->value != b->value) return a->value < b->value;
    if (a->region != b->region) return a->region < b->region;
    return a->age < b->age;
}

static bool push(Heap *heap, Merge merge) {
    if (heap->count == heap->room) {
        int64_t room = 2 * heap->room + 64;
        Merge *held = realloc(heap->held, sizeof(Merge) * (size_t)room);
        if (!held) return false;
        heap->held = held;
        heap->room = room;
    }
    int64_t at = heap->count++;
    while (at && less(&merge, &heap->held[(at - 1) / 2])) {
        heap->held[at] = heap->held[(at - 1) / 2];
        at = (at - 1) / 2;
    }
    heap->held[at] = merge;
    return true;
}

static Merge pop(Heap *heap) {
    Merge least = heap->held[0], last = heap->held[--heap->count];
    int64_t at = 0;
    while (2 * at + 1 < heap->count) {
        int64_t child = 2 * at + 1;
        if (child + 1 < heap->count && less(&heap->held[child + 1], &heap->held[child])) child++;
        if (!less(&heap->held[child], &last)) break;
        heap->held[at] = heap->held[child];
        at = child;
    }
    heap->held[at] = last;
    return least;
}

/* ---- regions too small to be drawn ---------------------------------------------------------------------------- */

/* The neighbour that shares most border; of equal ones the nearer value, then the darker, then the first. */
static int64_t taker_of(const Adjacency *graph, const int64_t *values, int64_t gone) {
    int64_t kept = NONE, gap = 0;
    double length = 0;
    for (int64_t half = graph->first[gone]; half != NONE; half = graph->after[half]) {
        int64_t beyond = graph->beyond[half], off = llabs(values[beyond] - values[gone]);
        double shared = graph->length[half];
        bool better = kept == NONE || shared > length ||
                      (shared == length && (off < gap || (off == gap && (values[beyond] < values[kept] ||
                                                                         (values[beyond] == values[kept] && beyond < kept)))));
        if (better) { kept = beyond; gap = off; length = shared; }
    }
    return kept;
}

/* Which region each of n ends in when every one under a size goes to the neighbour that shares most border, the smallest
 * first; one that has grown is judged anew. ``areas`` (n,) are changed; ``owner`` (n,) is written. */
int64_t absorb_small(int64_t *areas, const int64_t *values, int64_t n, const int64_t *one, const int64_t *other,
                     const double *lengths, int64_t pairs, double smallest, int64_t *owner) {
    Adjacency graph;
    Heap heap = {NULL, 0, 0};
    int64_t *alike = malloc(sizeof(int64_t) * ((size_t)n + 1)), done = NO_MEMORY;
    if (!alike || !adjacency_of(&graph, one, other, lengths, pairs, n)) { free(alike); return NO_MEMORY; }
    for (int64_t k = 0; k < n; k++) owner[k] = k;
    for (int64_t k = 0; k < n; k++)
        if (areas[k] < smallest && !push(&heap, (Merge){0, 0, areas[k], k, 0, 0})) goto out;
    while (heap.count) {
        Merge least = pop(&heap);
        int64_t gone = least.region;
        if (owner[gone] != gone || least.value != areas[gone] || graph.first[gone] == NONE) continue;
        int64_t kept = taker_of(&graph, values, gone), many = 0;
        /* The grown region will touch regions of its own value, all of them neighbours of the small one: they are one. */
        for (int64_t half = graph.first[gone]; half != NONE; half = graph.after[half]) {
            int64_t beyond = graph.beyond[half];
            if (values[beyond] == values[kept] && beyond != kept) alike[many++] = beyond;
        }
        alike[many++] = gone;
        while (many) {
            int64_t each = alike[--many];
            adjacency_join(&graph, each, kept);
            owner[each] = kept;
            areas[kept] += areas[each];
        }
        if (areas[kept] < smallest && !push(&heap, (Merge){0, 0, areas[kept], kept, 0, 0})) goto out;
    }
    for (int64_t k = 0; k < n; k++)
        while (owner[owner[k]] != owner[k]) owner[k] = owner[owner[k]];
    done = 0;
out:
    free(alike);
    free(heap.held);
    adjacency_free(&graph);
    return done;
}

/* ---- the nested order ----------------------------------------------------------------------------------------- */

typedef struct {
    Adjacency graph;
    int64_t *values;
    double *costs, *sizes, *saved, *number;
    int64_t levels;
    double region_price;
} Merging;

/* The cheapest value of a neighbour for a region: NONE where it has no neighbours. */
static Merge best_merge(const Merging *all, int64_t r, int64_t age) {
    double *saved = all->saved, *number = all->number;
    const double *costs = all->costs + r * all->levels;
    for (int64_t v = 0; v < all->levels; v++) saved[v] = number[v] = 0;
    for (int64_t half = all->graph.first[r]; half != NONE; half = all->graph.after[half]) {
        int64_t v = all->values[all->graph.beyond[half]];
        saved[v] += all->graph.length[half];
        number[v] += 1;
    }
    Merge best = {INFINITY, all->sizes[r], NONE, r, age, all->sizes[r] >= 1};
    for (int64_t v = 0; v < all->levels; v++) {
        if (number[v] == 0) continue;
        double price = (costs[v] - costs[all->values[r]]) / (saved[v] + all->region_price * number[v]);
        if (best.value == NONE || price < best.ratio) { best.value = v; best.ratio = price; }
    }
    return best;
}

static int64_t note_beside(const Adjacency *graph, int64_t r, int64_t *beside) {
    int64_t count = 1;
    beside[0] = r;
    for (int64_t half = graph->first[r]; half != NONE; half = graph->after[half]) beside[count++] = graph->beyond[half];
    return count;
}

static int by_number(const void *a, const void *b) {
    int64_t one = *(const int64_t *)a, other = *(const int64_t *)b;
    return (one > other) - (one < other);
}

static int64_t note_alike(const Merging *all, int64_t r, int64_t value, int64_t *alike, double *length) {
    int64_t count = 0;
    *length = 0;
    for (int64_t half = all->graph.first[r]; half != NONE; half = all->graph.after[half])
        if (all->values[all->graph.beyond[half]] == value) {
            alike[count++] = all->graph.beyond[half];
            *length += all->graph.length[half];
        }
    qsort(alike, (size_t)count, sizeof(int64_t), by_number);
    return count;
}

/* Merge n regions, each time that which costs the least fit for the border it saves, until two are left.
 *
 * ``values`` (n,), ``costs`` (n, levels) and ``sizes`` (n,) are changed. Written: moved, to (n,), gone, taker (n,), and
 * from before the first step (n + 1,) joined, forced, price, loss, border. Returns the number of steps. */
int64_t order_merges(int64_t *values, double *costs, double *sizes, int64_t n, int64_t levels, const int64_t *one,
                     const int64_t *other, const double *lengths, int64_t pairs, double region_price, int64_t *moved,
                     int64_t *to, int64_t *gone, int64_t *taker, int64_t *joined, bool *forced, double *price,
                     double *loss, double *border) {
    enum { LEAST_REGIONS = 2 };
    Merging all = {.values = values, .costs = costs, .sizes = sizes, .levels = levels, .region_price = region_price};
    Heap heap = {NULL, 0, 0};
    int64_t *rooms = malloc(sizeof(int64_t) * 4 * ((size_t)n + 1)), k = NO_MEMORY;
    all.saved = malloc(sizeof(double) * 2 * (size_t)levels);
    if (!rooms || !all.saved || !adjacency_of(&all.graph, one, other, lengths, pairs, n)) {
        free(rooms);
        free(all.saved);
        return NO_MEMORY;
    }
    all.number = all.saved + levels;
    int64_t *owner = rooms, *ages = rooms + n, *beside = rooms + 2 * n, *alike = rooms + 3 * n + 1;
    for (int64_t r = 0; r < n; r++) { owner[r] = r; ages[r] = 0; }
    joined[0] = 0;
    forced[0] = false;
    price[0] = loss[0] = border[0] = 0;
    for (int64_t r = 0; r < n; r++) loss[0] += costs[r * levels + values[r]];
    for (int64_t p = 0; p < pairs; p++) border[0] += lengths[p];
    for (int64_t r = 0; r < n; r++)
        if (!push(&heap, best_merge(&all, r, 0))) goto out;
    k = 0;
    int64_t left = 0;
    while (heap.count && n - left > LEAST_REGIONS) {
        Merge least = pop(&heap);
        int64_t r = least.region, value = least.value;
        if (owner[r] != r || least.age != ages[r] || value == NONE) continue;
        double length;
        int64_t many = note_alike(&all, r, value, alike, &length);
        if (n - left - many < LEAST_REGIONS) continue;
        moved[k] = r;
        to[k] = value;
        forced[k + 1] = !least.stays;
        price[k + 1] = least.stays ? max_double(price[k], least.ratio) : price[k];
        loss[k + 1] = loss[k] + (costs[r * levels + value] - costs[r * levels + values[r]]);
        border[k + 1] = border[k] - length;
        values[r] = value;
        int64_t touched = note_beside(&all.graph, r, beside);
        for (int64_t a = 0; a < many; a++) {
            int64_t each = alike[a];
            adjacency_join(&all.graph, each, r);
            sizes[r] += sizes[each];
            for (int64_t v = 0; v < levels; v++) costs[r * levels + v] += costs[each * levels + v];
            owner[each] = r;
            gone[left] = each;
            taker[left++] = r;
        }
        joined[++k] = left;
        if (many > 1) touched = note_beside(&all.graph, r, beside); /* who touched two of them now touches one */
        for (int64_t b = 0; b < touched; b++) /* for all others it is as it was */
            if (owner[beside[b]] == beside[b] && !push(&heap, best_merge(&all, beside[b], ++ages[beside[b]]))) {
                k = NO_MEMORY;
                goto out;
            }
    }
out:
    free(rooms);
    free(all.saved);
    free(heap.held);
    adjacency_free(&all.graph);
    return k;
}

/* The steps (n,) after which one may stand: not before what is forced away, and a step that gains fit goes with the one
 * before it. Returns how many. */
int64_t find_stops(const bool *forced, const double *price, const double *loss, int64_t n, int64_t *kept) {
    int64_t count = 0;
    for (int64_t k = 0; k < n; k++) {
        while (count && (forced[k] || loss[k] < loss[kept[count - 1]] || price[k] <= price[kept[count - 1]])) count--;
        kept[count++] = k;
    }
    return count;
}
