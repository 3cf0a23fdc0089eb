//! Boards held against a list of pieces: where each stands, what is counted, what comes back.

use super::*;
use proptest::prelude::*;

const KINDS: u16 = 5;
const CELLS: u32 = 12;

/// Ground and a second floor kind, two kinds of one layer above, and a glider that crowds.
fn small() -> Board {
    let mut board = Board::new(Extent { columns: 4, rows: 3 }, 2, vec![0, 0, 1, 1, 1], Some(KindId(0)));
    board.let_crowd(&KindSet::new("swifts", [KindId(4)]));
    board.make_void(CellId(11));
    (0..CELLS).filter(|cell| *cell != 11).for_each(|cell| board.lay_ground(CellId(cell)));
    board.add(CellId(5), KindId(2), Some(Heading::East));
    board
}

/// A piece in the list; bare ground is listed too, as pieces that nobody has a number of.
#[derive(Clone, Debug, PartialEq)]
struct Listed {
    id: Option<PieceId>,
    kind: u16,
    cell: Option<u32>,
    heading: Option<Heading>,
}

#[derive(Clone, Debug)]
struct Plain(Vec<Listed>);

impl Plain {
    fn layer(kind: u16) -> u8 {
        u8::from(kind >= 2)
    }

    fn at(&mut self, cell: u32, layer: u8) -> Option<&mut Listed> {
        self.0.iter_mut().find(|piece| piece.cell == Some(cell) && Self::layer(piece.kind) == layer && piece.kind != 4)
    }

    fn of(&mut self, id: PieceId) -> &mut Listed {
        self.0.iter_mut().find(|piece| piece.id == Some(id)).unwrap()
    }
}

#[derive(Clone, Copy, Debug)]
enum Deed {
    Add(u32, u16),
    /// What stands on a layer of a cell gets its number, and is what the next deeds are about.
    Take(u32, u8),
    Remove,
    Turn(usize),
    Become(u16),
    Shift(u32),
    /// The same, with nothing before it that could be taken back.
    ShiftForGood(u32),
    Adrift,
    Mark,
    Back,
}

fn deed() -> impl Strategy<Value = Deed> {
    let cell = || 0..CELLS;
    prop_oneof![
        3 => (cell(), 1..KINDS).prop_map(|(cell, kind)| Deed::Add(cell, kind)),
        4 => (cell(), 0..2_u8).prop_map(|(cell, layer)| Deed::Take(cell, layer)),
        1 => Just(Deed::Remove),
        1 => (0..8_usize).prop_map(Deed::Turn),
        1 => (0..4_u16).prop_map(Deed::Become),
        3 => cell().prop_map(Deed::Shift),
        1 => cell().prop_map(Deed::ShiftForGood),
        1 => Just(Deed::Adrift),
        1 => Just(Deed::Mark),
        1 => Just(Deed::Back),
    ]
}

/// Holds the whole board against the list.
fn hold(board: &Board, plain: &mut Plain) -> Result<(), TestCaseError> {
    for cell in 0..CELLS {
        for layer in 0..2 {
            let listed = plain.at(cell, layer).cloned();
            prop_assert_eq!(
                board.kind_at(CellId(cell), layer).map(|kind| kind.0),
                listed.as_ref().map(|piece| piece.kind)
            );
            let known = listed.and_then(|piece| piece.id);
            prop_assert_eq!(board.known_piece_at(CellId(cell), layer), known, "in {} on {}", cell, layer);
        }
        let kinds = |wanted: Option<u32>| -> Vec<u16> {
            let mut kinds: Vec<u16> =
                plain.0.iter().filter(|piece| piece.cell == wanted).map(|piece| piece.kind).collect();
            kinds.sort_unstable();
            kinds
        };
        let mut seen: Vec<u16> =
            board.seats(CellId(cell)).filter_map(|seat| board.kind_in(CellId(cell), seat).map(|kind| kind.0)).collect();
        seen.sort_unstable();
        prop_assert_eq!(seen, kinds(Some(cell)), "seats of {}", cell);
    }
    for kind in 0..KINDS {
        let listed = plain.0.iter().filter(|piece| piece.kind == kind).count();
        prop_assert_eq!(board.count(KindId(kind)) as usize, listed, "count of {}", kind);
    }
    for piece in plain.0.iter().filter(|piece| piece.id.is_some()) {
        let id = piece.id.unwrap();
        prop_assert!(board.exists(id));
        prop_assert_eq!(board.cell_of(id).map(|cell| cell.0), piece.cell);
        prop_assert_eq!((board.kind_of(id).0, board.heading_of(id)), (piece.kind, piece.heading));
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn a_board_is_a_list_of_pieces(deeds in prop::collection::vec(deed(), 1..60)) {
        let mut board = small();
        let ground = |cell| Listed { id: None, kind: 0, cell: Some(cell), heading: None };
        let mut plain = Plain((0..11).map(ground).collect());
        plain.0.push(Listed { id: board.known_piece_at(CellId(5), 1), kind: 2, cell: Some(5), heading: Some(Heading::East) });
        let mut held = plain.0[11].id;
        let mut marks = vec![(board.mark(), board.hash(), plain.clone())];
        for deed in deeds {
            match deed {
                Deed::Add(cell, kind) => {
                    let taken = kind != 4 && plain.at(cell, Plain::layer(kind)).is_some();
                    let added = board.add(CellId(cell), KindId(kind), None);
                    prop_assert_eq!(added.is_some(), !taken && cell != 11);
                    if added.is_some() {
                        plain.0.push(Listed { id: added, kind, cell: Some(cell), heading: None });
                    }
                }
                Deed::Take(cell, layer) => {
                    let id = board.piece_at(CellId(cell), layer);
                    prop_assert_eq!(id.is_some(), plain.at(cell, layer).is_some());
                    if let Some(piece) = plain.at(cell, layer) {
                        piece.id = id;
                        held = id;
                    }
                }
                Deed::Remove => {
                    if let Some(id) = held.take() {
                        board.remove(id);
                        plain.0.retain(|piece| piece.id != Some(id));
                    }
                }
                Deed::Turn(eighth) => {
                    if let Some(id) = held {
                        let heading = Some(Heading::ALL[eighth]);
                        board.turn(id, heading);
                        plain.of(id).heading = heading;
                    }
                }
                Deed::Become(kind) => {
                    if let Some(id) = held {
                        board.become_kind(id, KindId(kind));
                        let piece = plain.of(id);
                        if Plain::layer(piece.kind) == Plain::layer(kind) {
                            piece.kind = kind;
                        }
                    }
                }
                Deed::Shift(cell) | Deed::ShiftForGood(cell) => {
                    let is_for_good = matches!(deed, Deed::ShiftForGood(_));
                    if let Some(id) = held
                        && cell != 11
                    {
                        let kind = plain.of(id).kind;
                        let from = plain.of(id).cell;
                        if from == Some(cell) || plain.at(cell, Plain::layer(kind)).is_none() {
                            let moves = [(id, CellId(cell))];
                            if is_for_good && from.is_some() {
                                let mut other = board.clone();
                                other.shift(&moves);
                                board.shift_for_good(&moves);
                                prop_assert_eq!(board.hash(), other.hash());
                            } else {
                                board.shift(&moves);
                            }
                            plain.of(id).cell = Some(cell);
                        }
                    }
                    if is_for_good {
                        board.forget();
                        marks = vec![(board.mark(), board.hash(), plain.clone())];
                    }
                }
                Deed::Adrift => {
                    if let Some(id) = held {
                        board.set_adrift(id);
                        plain.of(id).cell = None;
                    }
                }
                Deed::Mark => marks.push((board.mark(), board.hash(), plain.clone())),
                Deed::Back => {
                    let (mark, hash, before) = marks.last().unwrap().clone();
                    board.take_back(mark);
                    plain = before;
                    held = held.filter(|id| plain.0.iter().any(|piece| piece.id == Some(*id)));
                    prop_assert_eq!(board.hash(), hash);
                }
            }
            hold(&board, &mut plain)?;
        }
        while let Some((mark, hash, mut before)) = marks.pop() {
            board.take_back(mark);
            prop_assert_eq!(board.hash(), hash);
            hold(&board, &mut before)?;
        }
    }
}
