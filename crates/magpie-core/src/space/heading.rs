//! The eight compass headings.

/// A direction on the screen: north is up, whichever way rows count.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[repr(u8)]
pub enum Heading {
    /// Column - 1.
    West,
    /// Column + 1.
    East,
    /// Up on the screen.
    North,
    /// Down on the screen.
    South,
    /// Up and left.
    NorthWest,
    /// Up and right.
    NorthEast,
    /// Down and left.
    SouthWest,
    /// Down and right.
    SouthEast,
}

impl Heading {
    /// All headings, in the order in which bodies that go different ways ask.
    pub const ALL: [Self; 8] = [
        Self::West,
        Self::East,
        Self::North,
        Self::South,
        Self::NorthWest,
        Self::NorthEast,
        Self::SouthWest,
        Self::SouthEast,
    ];

    /// The step on the screen: columns east and lines south.
    pub const fn screen_step(self) -> (i64, i64) {
        match self {
            Self::West => (-1, 0),
            Self::East => (1, 0),
            Self::North => (0, -1),
            Self::South => (0, 1),
            Self::NorthWest => (-1, -1),
            Self::NorthEast => (1, -1),
            Self::SouthWest => (-1, 1),
            Self::SouthEast => (1, 1),
        }
    }

    /// The heading of a step on the screen, `None` for no step at all.
    pub fn from_screen_step(east: i64, south: i64) -> Option<Self> {
        Self::ALL.into_iter().find(|heading| heading.screen_step() == (east.signum(), south.signum()))
    }

    /// All headings clockwise, from north.
    pub const CLOCKWISE: [Self; 8] = [
        Self::North,
        Self::NorthEast,
        Self::East,
        Self::SouthEast,
        Self::South,
        Self::SouthWest,
        Self::West,
        Self::NorthWest,
    ];

    /// The heading turned by so many eighths clockwise.
    #[must_use]
    pub fn turned(self, eighths: usize) -> Self {
        let here = Self::CLOCKWISE.iter().position(|heading| *heading == self).unwrap_or(0);
        Self::CLOCKWISE[(here + eighths) % 8]
    }

    /// The opposite heading.
    #[must_use]
    pub fn opposite(self) -> Self {
        self.turned(4)
    }

    /// Whether the heading runs along both axes.
    pub const fn is_diagonal(self) -> bool {
        self as u8 >= Self::NorthWest as u8
    }

    /// The word of the rulebook.
    pub const fn word(self) -> &'static str {
        match self {
            Self::West => "west",
            Self::East => "east",
            Self::North => "north",
            Self::South => "south",
            Self::NorthWest => "north-west",
            Self::NorthEast => "north-east",
            Self::SouthWest => "south-west",
            Self::SouthEast => "south-east",
        }
    }

    /// The heading of a word of the rulebook.
    pub fn from_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|heading| heading.word() == word)
    }
}
