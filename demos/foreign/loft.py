"""The feed loft as a class with a list of sacks and a set of taken cells.

It reads one JSON line an input from standard input and answers each with one line of report.
With --slip it forgets to free the cell that the keeper leaves.
"""
import json
import sys

MAP = ["..#...", ".Ks..u", ".s.#.."]
STEPS = {"left": (-1, 0), "right": (1, 0), "up": (0, -1), "down": (0, 1)}
SLIP = "--slip" in sys.argv[1:]


class Loft:
    def __init__(self):
        self.columns, self.rows = len(MAP[0]), len(MAP)
        self.posts, self.sacks, self.bins = set(), [], set()
        self.moves, self.won = 0, False
        for row, line in enumerate(MAP):
            for column, glyph in enumerate(line):
                if glyph == "#":
                    self.posts.add((column, row))
                elif glyph == "s":
                    self.sacks.append((column, row))
                elif glyph == "u":
                    self.bins.add((column, row))
                elif glyph == "K":
                    self.keeper = (column, row)
        self.taken = self.posts | set(self.sacks) | {self.keeper}

    def inside(self, cell):
        return 0 <= cell[0] < self.columns and 0 <= cell[1] < self.rows

    def is_free(self, cell):
        return self.inside(cell) and cell not in self.taken

    def move_keeper(self, cell):
        if not SLIP:
            self.taken.discard(self.keeper)
        self.keeper = cell
        self.taken.add(cell)

    def step(self, key):
        """One key; whether something moved."""
        if self.won or key not in STEPS:
            return False
        across, down = STEPS[key]
        ahead = (self.keeper[0] + across, self.keeper[1] + down)
        if ahead in self.sacks:
            behind = (ahead[0] + across, ahead[1] + down)
            if not self.is_free(behind):
                return False
            self.sacks[self.sacks.index(ahead)] = behind
            self.taken.discard(ahead)
            self.taken.add(behind)
        if not self.is_free(ahead):
            return False
        self.move_keeper(ahead)
        self.moves += 1
        self.won = any(sack in self.bins for sack in self.sacks)
        return True

    def glyph(self, cell):
        if cell == self.keeper:
            return "K"
        if cell in self.sacks:
            return "s"
        if cell in self.posts:
            return "#"
        return "u" if cell in self.bins else "."

    def report(self, granted):
        board = ["".join(self.glyph((c, r)) for c in range(self.columns)) for r in range(self.rows)]
        outcome = "won" if self.won else None
        return {"cell": list(self.keeper), "board": board, "counters": {"moves": self.moves},
                "granted": granted, "outcome": outcome}


def main():
    loft = Loft()
    for line in sys.stdin:
        word = json.loads(line)["input"]
        granted = False
        if word == "restart":
            loft = Loft()
        else:
            granted = loft.step(word)
        print(json.dumps(loft.report(granted)), flush=True)


main()
