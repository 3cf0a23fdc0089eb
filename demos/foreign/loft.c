/* The feed loft with arrays of positions, as a game loop in C keeps them.
 *
 * It reads one JSON line an input from standard input and answers each with one line of report.
 * With --slip a shoved sack is not held against what stands behind it.
 *
 *   cc -O2 -o loft loft.c && ./loft
 */
#include <stdbool.h>
#include <stdio.h>
#include <string.h>

enum { COLUMNS = 6, ROWS = 3, SACKS = 2 };

typedef struct {
    int column, row;
} Place;

static const char *MAP[ROWS] = {"..#...", ".Ks..u", ".s.#.."};
static Place keeper, sacks[SACKS];
static int moves;
static bool won, slip;

static void restart(void) {
    int found = 0;
    for (int row = 0; row < ROWS; row++)
        for (int column = 0; column < COLUMNS; column++) {
            Place here = {column, row};
            if (MAP[row][column] == 'K') keeper = here;
            if (MAP[row][column] == 's') sacks[found++] = here;
        }
    moves = 0;
    won = false;
}

static bool inside(Place at) {
    return at.column >= 0 && at.column < COLUMNS && at.row >= 0 && at.row < ROWS;
}

static int sack_at(Place at) {
    for (int number = 0; number < SACKS; number++)
        if (sacks[number].column == at.column && sacks[number].row == at.row) return number;
    return -1;
}

static bool is_post(Place at) { return MAP[at.row][at.column] == '#'; }

static bool step(int across, int down) {
    Place ahead = {keeper.column + across, keeper.row + down};
    if (won || !inside(ahead) || is_post(ahead)) return false;
    int sack = sack_at(ahead);
    if (sack >= 0) {
        Place behind = {ahead.column + across, ahead.row + down};
        if (!inside(behind)) return false;
        if (!slip && (is_post(behind) || sack_at(behind) >= 0)) return false;
        sacks[sack] = behind;
        won = MAP[behind.row][behind.column] == 'u';
    }
    keeper = ahead;
    moves++;
    return true;
}

static void report(bool granted) {
    printf("{\"cell\":[%d,%d],\"board\":[", keeper.column, keeper.row);
    for (int row = 0; row < ROWS; row++) {
        char line[COLUMNS + 1] = "";
        for (int column = 0; column < COLUMNS; column++) {
            Place here = {column, row};
            bool has_keeper = keeper.column == column && keeper.row == row;
            char ground = MAP[row][column] == '#' || MAP[row][column] == 'u' ? MAP[row][column] : '.';
            line[column] = has_keeper ? 'K' : sack_at(here) >= 0 ? 's' : ground;
        }
        printf("%s\"%s\"", row ? "," : "", line);
    }
    printf("],\"counters\":{\"moves\":%d},\"granted\":%s,", moves, granted ? "true" : "false");
    printf("\"outcome\":%s}\n", won ? "\"won\"" : "null");
    fflush(stdout);
}

int main(int count, char **words) {
    slip = count > 1 && strcmp(words[1], "--slip") == 0;
    restart();
    char line[1024];
    while (fgets(line, sizeof line, stdin)) {
        bool granted = false;
        if (strstr(line, "\"restart\"")) restart();
        else if (strstr(line, "\"left\"")) granted = step(-1, 0);
        else if (strstr(line, "\"right\"")) granted = step(1, 0);
        else if (strstr(line, "\"up\"")) granted = step(0, -1);
        else if (strstr(line, "\"down\"")) granted = step(0, 1);
        report(granted);
    }
    return 0;
}
