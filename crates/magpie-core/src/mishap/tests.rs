use super::*;
use crate::space::{
    Cell, Extent, Fit, Geometry, IndexOrder, Origin, Position, RowsFrom, View, WindowPoint, WorldPoint, YAxis,
};
use proptest::prelude::*;
use std::collections::HashSet;

const BOARD: Extent = Extent { columns: 7, rows: 5 };

/// A grid on which every number matters.
fn telling() -> (Geometry, View) {
    let origin = Origin::Corner(WorldPoint { x: 41.0, y: -13.0 });
    let geometry = Geometry { gap: (3.0, 5.0), origin, ..Geometry::of_cells(20.0, 30.0) };
    let view = View {
        window: (800.0, 500.0),
        design: (300.0, 250.0),
        fit: Fit::Letterbox,
        density: 1.5,
        camera: Some(WorldPoint { x: 12.0, y: -40.0 }),
        zoom: 0.75,
        buttons: Vec::new(),
    };
    (geometry, view)
}

fn asked<'a>(geometry: &'a Geometry, view: &'a View, world: WorldPoint, window: bool) -> Asked<'a> {
    let window = window.then(|| view.window_point(geometry.y, world));
    Asked { geometry, extent: BOARD, view: Some(view), hotspot: (7.0, -4.0), world, window }
}

/// The mistakes on the way from a position to a cell.
fn about_cells() -> Vec<Mishap> {
    let (geometry, view) = telling();
    let window = asked(&geometry, &view, WorldPoint { x: 0.0, y: 0.0 }, true);
    Mishap::ALL.into_iter().filter(|mishap| mishap.cell(&window).is_some()).collect()
}

#[test]
fn every_mishap_differs_somewhere_and_each_from_every_other() {
    let (geometry, view) = telling();
    let mut pictures = HashSet::new();
    assert_eq!(about_cells().len(), 19);
    for mishap in about_cells() {
        let mut picture = Vec::new();
        let mut differs = 0;
        for window in [false, true] {
            for at in 0..1500 {
                let world = WorldPoint { x: f64::from(at % 50) * 4.25 - 20.0, y: f64::from(at / 50) * 7.5 - 40.0 };
                let asked = asked(&geometry, &view, world, window);
                let wrong = mishap.cell(&asked);
                differs += u32::from(wrong.is_some_and(|wrong| wrong != right_cell(&asked)));
                picture.push(wrong.map(|wrong| wrong.map(|part| (part + 0.0).to_bits())));
            }
        }
        assert!(differs > 0, "{} never differs", mishap.id());
        assert!(pictures.insert(picture), "{} is another mishap", mishap.id());
    }
    let ids: HashSet<&str> = Mishap::ALL.iter().map(|mishap| mishap.id()).collect();
    assert_eq!(ids.len(), Mishap::ALL.len());
    assert!(Mishap::ALL.iter().all(|mishap| Mishap::of_id(mishap.id()) == Some(*mishap) && !mishap.says().is_empty()));
}

#[test]
fn every_version_of_every_function_differs_somewhere_and_no_mishap_is_without_one() {
    let (geometry, _) = telling();
    let numbers = Numbers::new(&geometry, BOARD, (7.0, -4.0));
    let mut without: HashSet<Mishap> = Mishap::ALL.into_iter().collect();
    for target in Target::ALL {
        for mishap in Mishap::ALL {
            for version in mishap.versions(target, 0) {
                if mishap.is_of_view() {
                    continue;
                }
                without.remove(&mishap);
                let differs = if target.at_positions() {
                    (0..12_000).any(|at| {
                        let world = WorldPoint { x: f64::from(at % 50) * 5.0 - 20.0, y: f64::from(at / 50) - 40.0 };
                        let right = match target {
                            Target::Column => numbers.x.cell(world.x),
                            Target::Row => numbers.y.cell(world.y),
                            Target::SnapX => numbers.x.snap(world.x),
                            _ => numbers.y.snap(world.y),
                        };
                        let asked = Asked {
                            geometry: &geometry,
                            extent: BOARD,
                            view: None,
                            hotspot: (7.0, -4.0),
                            world,
                            window: None,
                        };
                        let wrong = version.at_position(target, &asked);
                        !wrong.is_nan() && wrong != right
                    })
                } else if target.at_indices() {
                    (0..35).any(|index| {
                        let Cell { column, row } = geometry.cell_of_index(BOARD, index).unwrap();
                        let right = if target == Target::IndexRow { row } else { column };
                        version.at_index(target, &geometry, BOARD, index as f64) != right as f64
                    })
                } else {
                    (0..63).any(|at| {
                        let cell = Cell::new(i64::from(at % 9) - 1, i64::from(at / 9) - 1);
                        let right = match target {
                            Target::Index => geometry.index(BOARD, cell).map_or(f64::NAN, |index| index as f64),
                            Target::CentreX => geometry.centre(BOARD, cell).x,
                            Target::CentreY => geometry.centre(BOARD, cell).y,
                            _ => f64::from(u8::from(BOARD.contains(cell))),
                        };
                        let wrong = version.at_cell(target, &geometry, BOARD, &numbers, cell);
                        !right.is_nan() && wrong != right
                    })
                };
                // Turning the rows round is no mistake about columns.
                let elsewhere = match mishap {
                    Mishap::YTurnedRound => !target.is_vertical() && target != Target::Index,
                    // The rest of a division is whole.
                    Mishap::NotFloored | Mishap::Rounded | Mishap::Ceiled => target == Target::IndexColumn,
                    _ => false,
                };
                assert_eq!(differs, !elsewhere, "{} of {}", mishap.id(), target.word());
            }
        }
    }
    let view = [Mishap::ScaleForgotten, Mishap::BarForgotten, Mishap::CameraForgotten, Mishap::DensityForgotten];
    assert_eq!(without, view.into_iter().collect(), "only mistakes about windows are none about world positions");
}

#[test]
fn mishaps_are_right_where_their_number_is_nothing() {
    let plain = Geometry::of_cells(16.0, 16.0);
    let asked = |x: f64, y: f64| Asked {
        geometry: &plain,
        extent: BOARD,
        view: None,
        hotspot: (0.0, 0.0),
        world: WorldPoint { x, y },
        window: None,
    };
    for (x, y) in [(0.0, 0.0), (15.0, 31.0), (40.0, 3.0), (100.0, 70.0)] {
        let asked = asked(x, y);
        let right = Some(right_cell(&asked));
        for mishap in [
            Mishap::Truncated,
            Mishap::OriginForgotten,
            Mishap::OriginAfterDivision,
            Mishap::HotspotForgotten,
            Mishap::HotspotAfterDivision,
            Mishap::GapForgotten,
        ] {
            assert_eq!(mishap.cell(&asked), right, "{} at {x},{y}", mishap.id());
        }
        assert_eq!(Mishap::ScaleForgotten.cell(&asked), None, "there is no view");
    }
    assert_ne!(Mishap::Truncated.cell(&asked(-1.0, 4.0)), Some(right_cell(&asked(-1.0, 4.0))));
}

proptest! {
    #[test]
    fn the_catalogue_s_right_answers_are_the_grid_s(
        x in -400.0..400.0, y in -400.0..400.0, up: bool, bottom: bool, column in -3i64..12, row in -3i64..9,
    ) {
        let (geometry, view) = telling();
        let rows = if bottom { RowsFrom::Bottom } else { RowsFrom::Top };
        let geometry = Geometry { y: if up { YAxis::Up } else { YAxis::Down }, rows, ..geometry };
        let world = WorldPoint { x, y };
        let found = right_cell(&Asked { hotspot: (0.0, 0.0), ..asked(&geometry, &view, world, false) });
        let cell = geometry.cell_at(BOARD, world);
        prop_assert_eq!(found, [cell.column as f64, cell.row as f64]);
        let numbers = Numbers::new(&geometry, BOARD, (0.0, 0.0));
        let centre = geometry.centre(BOARD, Cell::new(column, row));
        prop_assert_eq!((numbers.x.centre(column as f64), numbers.y.centre(row as f64)), (centre.x, centre.y));
    }
}

/// Twelve positions, on the board and on every side of it, at edges, in the middle and in the gap of cells.
const SPOTS: [(f64, f64); 12] = [
    (-2.0, 9.0),
    (9.0, -2.0),
    (-9.0, -9.0),
    (41.0, -13.0),
    (64.0, 22.0),
    (83.0, 41.0),
    (90.0, 37.0),
    (110.0, 100.0),
    (147.0, 140.0),
    (170.0, 72.0),
    (202.0, 162.0),
    (215.0, 60.0),
];

fn given<'a>(geometry: &'a Geometry, view: Option<&'a View>) -> Given<'a> {
    Given { geometry, extent: BOARD, view, hotspot: (7.0, -4.0), window: None }
}

fn sample(input: (f64, f64), output: [f64; 2]) -> Sample {
    Sample { input, output: (output[0], output[1]), slack: (1e-9, 1e-9) }
}

#[test]
fn a_planted_mistake_is_named_from_twelve_samples() {
    let (geometry, view) = telling();
    for mishap in about_cells() {
        let about_window = mishap.cell(&asked(&geometry, &view, WorldPoint { x: 0.0, y: 0.0 }, false)).is_none();
        let all = SPOTS.map(|(x, y)| {
            let asked = asked(&geometry, &view, WorldPoint { x, y }, about_window);
            let input = asked.window.map_or((x, y), |WindowPoint { x, y }| (x, y));
            sample(input, mishap.cell(&asked).unwrap())
        });
        let samples = Samples { asks: Asks::Cell, all: all.to_vec() };
        let found = diagnose(&given(&geometry, Some(&view)), &samples);
        let names: Vec<_> = found.explanations.iter().map(|found| (found.mishap, found.with, found.vertical)).collect();
        // Half a cell too much is what a board gives that begins half a cell earlier.
        let earlier = (mishap == Mishap::HalfCellAdded).then_some((None, None, None));
        let wanted: Vec<_> = std::iter::once((Some(mishap), None, None)).chain(earlier).collect();
        assert_eq!(names, wanted, "{}", mishap.id());
        let half = found.explanations.get(1).and_then(Explanation::half_cells);
        assert_eq!(half, earlier.map(|_| (-1, -1)));
        assert_eq!(found.next, None);
    }
}

#[test]
fn planted_mistakes_of_indices_and_centres_are_named() {
    let (geometry, _) = telling();
    let numbers = Numbers::new(&geometry, BOARD, (0.0, 0.0));
    let cells = [(0, 0), (1, 0), (0, 1), (6, 4), (3, 2), (5, 1)];
    for mishap in Mishap::ALL {
        if let Some(version) = mishap.versions(Target::CentreX, 0).first() {
            let all = cells.map(|(column, row)| {
                let at = Cell::new(column, row);
                let along = |target| version.at_cell(target, &geometry, BOARD, &numbers, at);
                sample((column as f64, row as f64), [along(Target::CentreX), along(Target::CentreY)])
            });
            let samples = Samples { asks: Asks::Centre, all: all.to_vec() };
            let found = diagnose(&given(&geometry, None), &samples);
            assert_eq!(found.explanations.first().and_then(|found| found.mishap), Some(mishap), "{}", mishap.id());
        }
        if let Some(version) = mishap.versions(Target::Index, 0).first() {
            let all = cells.map(|(column, row)| {
                let at = Cell::new(column, row);
                let middle = geometry.centre(BOARD, at);
                let index = version.at_cell(Target::Index, &geometry, BOARD, &numbers, at);
                sample((middle.x - 7.0, middle.y + 4.0), [index, 0.0])
            });
            let samples = Samples { asks: Asks::Index, all: all.to_vec() };
            let found = diagnose(&given(&geometry, None), &samples);
            assert!(found.explanations.iter().any(|found| found.mishap == Some(mishap)), "{}", mishap.id());
            assert!(!found.explanations[0].is_correct());
        }
    }
}

#[test]
fn two_mistakes_and_a_mistake_on_one_axis_are_found_where_nothing_simpler_fits() {
    let (geometry, view) = telling();
    let numbers = Numbers::new(&geometry, BOARD, (7.0, -4.0));
    let first = |mishap: Mishap| mishap.recipes()[0];
    let both = first(Mishap::Truncated).and(first(Mishap::GapForgotten)).unwrap();
    let of = |cell: &dyn Fn(WorldPoint) -> [f64; 2]| {
        let all = SPOTS.map(|(x, y)| sample((x, y), cell(WorldPoint { x, y })));
        diagnose(&given(&geometry, Some(&view)), &Samples { asks: Asks::Cell, all: all.to_vec() })
    };
    let found = of(&|world| both.cell(&numbers, world));
    let pair = found.explanations.iter().find(|found| found.with.is_some()).expect("two mistakes");
    assert_eq!((pair.mishap, pair.with), (Some(Mishap::Truncated), Some(Mishap::GapForgotten)));
    let found = of(&|world| [numbers.cell(world)[0], first(Mishap::Rounded).cell(&numbers, world)[1]]);
    let one = &found.explanations[0];
    assert_eq!((one.mishap, one.vertical), (Some(Mishap::Rounded), Some(true)));
}

#[test]
fn right_samples_are_correct_and_the_next_position_parts_what_is_left() {
    let (geometry, view) = telling();
    let inside = [(64.0, 22.0), (90.0, 57.0)];
    let all: Vec<Sample> = inside
        .iter()
        .map(|(x, y)| sample((*x, *y), right_cell(&asked(&geometry, &view, WorldPoint { x: *x, y: *y }, false))))
        .collect();
    let found = diagnose(&given(&geometry, None), &Samples { asks: Asks::Cell, all });
    assert!(found.explanations[0].is_correct());
    let truncated = found.explanations.iter().find(|found| found.mishap == Some(Mishap::Truncated));
    assert!(truncated.is_some(), "two samples on the board cannot tell cutting from floor");
    let Some(Position::World(next)) = found.next else { panic!("there is doubt: {:?}", found.next) };
    let world = asked(&geometry, &view, next, false);
    let answers: HashSet<String> = found
        .explanations
        .iter()
        .map(|found| format!("{:?}", found.mishap.map_or(right_cell(&world), |mishap| mishap.cell(&world).unwrap())))
        .collect();
    assert!(answers.len() > 1);
}

#[test]
fn numbers_are_fitted_where_the_rulebook_s_do_not_fit() {
    let book = Geometry::of_cells(24.0, 18.0);
    let origin = Origin::Corner(WorldPoint { x: 40.0, y: 60.0 });
    let real = Geometry { origin, ..Geometry::of_cells(32.0, 32.0) };
    let spots =
        [(40.0, 60.0), (71.0, 91.0), (72.0, 92.0), (100.0, 130.0), (263.0, 219.0), (264.0, 220.0), (168.0, 155.0)];
    let all = spots.map(|(x, y)| {
        let cell = real.cell_at(BOARD, WorldPoint { x, y });
        sample((x, y), [cell.column as f64, cell.row as f64])
    });
    let found = diagnose(&Given::of_world(&book, BOARD, (0.0, 0.0)), &Samples { asks: Asks::Cell, all: all.to_vec() });
    let fitted = found.explanations.iter().find(|found| found.fitted).expect("numbers that fit");
    assert_eq!((fitted.geometry.size, fitted.mishap), ((32.0, 32.0), None));
    assert_eq!(fitted.geometry.origin, origin);
    let centres = [(0, 0), (3, 1), (6, 4)].map(|(column, row)| {
        let middle = real.centre(BOARD, Cell::new(column, row));
        sample((column as f64, row as f64), [middle.x, middle.y])
    });
    let samples = Samples { asks: Asks::Centre, all: centres.to_vec() };
    let found = diagnose(&Given::of_world(&book, BOARD, (0.0, 0.0)), &samples);
    assert!(found.explanations[0].fitted);
    assert_eq!(found.explanations[0].geometry.pitch(), (32.0, 32.0));
}

#[test]
fn column_major_boards_are_indexed_by_their_width_when_it_is_wrong() {
    let geometry = Geometry { order: IndexOrder::ColumnMajor, ..Geometry::of_cells(8.0, 8.0) };
    let numbers = Numbers::new(&geometry, BOARD, (0.0, 0.0));
    let version = Mishap::IndexByHeight.versions(Target::Index, 0)[0];
    assert_eq!(version.at_cell(Target::Index, &geometry, BOARD, &numbers, Cell::new(2, 1)), 15.0);
}

#[test]
fn samples_are_read_as_csv_and_as_programs_print_them() {
    let board = Board { extent: BOARD, first_index: 0 };
    let read = |text: &str| parse_samples(text, board, None).map(|samples| (samples.asks, samples.all));
    let forms = [
        "x,y,column,row\n101,40,4,2\n-1.5,3,-1,0\n",
        "\u{feff}row, note, column, y, x\r\n2,\"a, b\",4,40,101\r\n0,,-1,3,-1.5\r\n",
        "(101.0, 40.0) -> 4 2\n(-1.5, 3.0) -> -1 0",
        "x=101 y=40 col 4 row 2\n\nstarting up\nx=-1.5 y=3 col -1 row 0",
        "Vector2(101.0f, 40.0f)=>[4,2]\nVector2(-1.5f, 3.0f)=>[-1,0]",
        "pos (101, 0, 40) cell 4,2\npos (-1.5, 0, 3) cell -1,0",
        "y: 40 x: 101 row: 2 col: 4\ny: 3 x: -1.5 row: 0 col: -1",
    ];
    for text in forms {
        let (asks, all) = read(text).unwrap_or_else(|error| panic!("{text}: {error}"));
        let numbers: Vec<_> = all.iter().map(|sample| (sample.input, sample.output)).collect();
        assert_eq!(asks, Asks::Cell, "{text}");
        assert_eq!(numbers, [((101.0, 40.0), (4.0, 2.0)), ((-1.5, 3.0), (-1.0, 0.0))], "{text}");
    }
    assert_eq!(read("x,y,index\n1,2,3\n").unwrap().0, Asks::Index);
    assert_eq!(read("112 30 -> 17").unwrap().0, Asks::Index);
    assert_eq!(read("column,row,centre_x,centre_y\n0,0,12.5,9\n").unwrap().0, Asks::Centre);
    let wrong = [
        ("", SampleError::Empty),
        ("x,y,column,row\n", SampleError::Empty),
        ("nothing here\n", SampleError::Empty),
        ("x,y\n", SampleError::Header),
        ("x,y,x,column,row\n", SampleError::Twice("x".into())),
    ];
    for (text, error) in wrong {
        assert_eq!(read(text), Err(error), "{text}");
    }
    let message = |text: &str| read(text).unwrap_err().to_string();
    assert_eq!(message("x,y,column,row\n1,2,3,4\n1,2,x,4\n"), "line 3: `x` is no number for `column`");
    assert_eq!(message("x,y,index\n1,2\n"), "line 2: 2 fields, where the header has 3");
    assert!(message("1 2 -> 3 4\n1 2 -> 3\n").starts_with("line 2: 3 numbers, where 4 are wanted"));
}

/// What a program says that makes the mistake of a version, at cells of the board.
fn at_cells(asks: Asks, said: impl Fn(Cell) -> [f64; 2]) -> Samples {
    let (geometry, _) = telling();
    let cells = [(0, 0), (1, 0), (0, 1), (6, 4), (3, 2), (5, 1)].map(|(column, row)| Cell::new(column, row));
    let given = |cell: Cell| match asks {
        Asks::CellOfIndex => (geometry.index(BOARD, cell).unwrap() as f64, 0.0),
        _ => (cell.column as f64, cell.row as f64),
    };
    Samples { asks, all: cells.map(|cell| sample(given(cell), said(cell))).to_vec() }
}

#[test]
fn planted_mistakes_of_both_ways_between_cell_and_index_are_named() {
    let (geometry, _) = telling();
    let numbers = Numbers::new(&geometry, BOARD, (0.0, 0.0));
    let named = |samples: &Samples| diagnose(&given(&geometry, None), samples).explanations.first().cloned();
    for mishap in Mishap::ALL {
        if let Some(version) = mishap.versions(Target::Index, 0).first() {
            let said = |cell| [version.at_cell(Target::Index, &geometry, BOARD, &numbers, cell), 0.0];
            let found = named(&at_cells(Asks::IndexOfCell, said)).and_then(|found| found.mishap);
            assert_eq!(found, Some(mishap), "{} of an index", mishap.id());
        }
        for version in mishap.versions(Target::IndexColumn, 0) {
            let said = |cell| {
                let index = geometry.index(BOARD, cell).unwrap() as f64;
                [Target::IndexColumn, Target::IndexRow].map(|target| version.at_index(target, &geometry, BOARD, index))
            };
            let found = named(&at_cells(Asks::CellOfIndex, said)).and_then(|found| found.mishap);
            assert_eq!(found, Some(mishap), "{} of a cell", mishap.id());
        }
    }
    let right = at_cells(Asks::CellOfIndex, |cell| [cell.column as f64, cell.row as f64]);
    assert!(named(&right).unwrap().is_correct());
    let right = at_cells(Asks::IndexOfCell, |cell| [geometry.index(BOARD, cell).unwrap() as f64, 0.0]);
    assert!(named(&right).unwrap().is_correct());
}

#[test]
fn planted_mistakes_of_snapping_are_named() {
    let (geometry, view) = telling();
    for window in [false, true] {
        for mishap in Mishap::ALL {
            for version in mishap.versions(Target::SnapX, 0) {
                let all = SPOTS.map(|(x, y)| {
                    let asked = asked(&geometry, &view, WorldPoint { x, y }, window);
                    let input = asked.window.map_or((x, y), |WindowPoint { x, y }| (x, y));
                    sample(input, [Target::SnapX, Target::SnapY].map(|target| version.at_position(target, &asked)))
                });
                // A step of the view has no meaning in the world, a hotspot none in the window.
                let right = SPOTS.iter().zip(&all).all(|((x, y), sample)| {
                    let asked = asked(&geometry, &view, WorldPoint { x: *x, y: *y }, window);
                    let numbers = asked.numbers();
                    sample.output == (numbers.x.snap(asked.world.x), numbers.y.snap(asked.world.y))
                });
                if right || all.iter().any(|sample| sample.output.0.is_nan()) {
                    continue;
                }
                let samples = Samples { asks: Asks::Snap, all: all.to_vec() };
                let known = Given { window: Some(window), ..given(&geometry, Some(&view)) };
                let found = diagnose(&known, &samples);
                assert!(
                    found.explanations.iter().any(|found| found.mishap == Some(mishap)),
                    "{} {version:?}",
                    mishap.id()
                );
                assert!(!found.explanations[0].is_correct(), "{}", mishap.id());
            }
        }
    }
}

/// Touch positions whose density was forgotten are right as positions of the world: both are told, the mistake first.
#[test]
fn a_step_of_the_view_left_out_is_never_called_correct_while_the_space_is_open() {
    let geometry = Geometry::of_cells(24.0, 18.0);
    let plain = View {
        window: (400.0, 300.0),
        design: (400.0, 300.0),
        fit: Fit::Letterbox,
        density: 1.0,
        camera: None,
        zoom: 1.0,
        buttons: Vec::new(),
    };
    let all: Vec<Sample> = [(3.0, 5.0), (26.0, 40.0), (100.0, 71.0), (150.0, 20.0), (-7.0, -3.0)]
        .map(|(x, y)| {
            let cell = geometry.cell_at(BOARD, WorldPoint { x, y });
            sample((x, y), [cell.column as f64, cell.row as f64])
        })
        .to_vec();
    let samples = Samples { asks: Asks::Cell, all };
    let views = [
        (View { density: 2.0, ..plain.clone() }, Mishap::DensityForgotten),
        (View { window: (800.0, 600.0), ..plain.clone() }, Mishap::ScaleForgotten),
        (View { camera: Some(WorldPoint { x: 60.0, y: 10.0 }), ..plain.clone() }, Mishap::CameraForgotten),
    ];
    for (view, mishap) in views {
        let found = |window| diagnose(&Given { window, ..Given::of_world(&geometry, BOARD, (0.0, 0.0)) }, &samples);
        assert!(found(None).explanations[0].is_correct(), "without a view there is one space");
        let of = |window| {
            let found = diagnose(
                &Given { view: Some(&view), window, ..Given::of_world(&geometry, BOARD, (0.0, 0.0)) },
                &samples,
            );
            let all: Vec<_> = found.explanations.iter().map(|found| (found.mishap, found.window)).collect();
            (all, found.is_of_two_spaces())
        };
        let (all, two) = of(None);
        assert_eq!((&all[..2], two), (&[(Some(mishap), true), (None, false)][..], true), "{}", mishap.id());
        let (all, two) = of(Some(true));
        assert_eq!((all[0], two), ((Some(mishap), true), false));
        let (all, two) = of(Some(false));
        assert_eq!((all[0], two), ((None, false), false));
    }
}

#[test]
fn a_board_half_a_cell_beside_the_rulebook_s_is_said_to_be_that() {
    for (gap, asks) in
        [((0.0, 0.0), Asks::Cell), ((3.0, 5.0), Asks::Cell), ((3.0, 5.0), Asks::Index), ((3.0, 5.0), Asks::Centre)]
    {
        let (geometry, _) = telling();
        let geometry = Geometry { gap, ..geometry };
        let old = geometry.corner_of_first(BOARD);
        for (x, y) in [(1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, -1), (1, -1), (-1, 1)] {
            let corner = WorldPoint {
                x: old.x + f64::from(x) * geometry.size.0 / 2.0,
                y: old.y + f64::from(y) * geometry.size.1 / 2.0,
            };
            let real = Geometry { origin: Origin::Corner(corner), ..geometry.clone() };
            let all: Vec<Sample> = (0..40)
                .filter_map(|at| {
                    let world = WorldPoint { x: f64::from(at * 37 % 160) + 44.0, y: f64::from(at * 53 % 170) - 10.0 };
                    let cell = real.cell_at(BOARD, world);
                    let (column, row) = (cell.column as f64, cell.row as f64);
                    match asks {
                        Asks::Cell => Some(sample((world.x, world.y), [column, row])),
                        Asks::Index => Some(sample((world.x, world.y), [real.index(BOARD, cell)? as f64, 0.0])),
                        _ => {
                            let centre = real.centre(BOARD, cell);
                            Some(sample((column, row), [centre.x, centre.y]))
                        }
                    }
                })
                .collect();
            let found = diagnose(&Given::of_world(&geometry, BOARD, (0.0, 0.0)), &Samples { asks, all });
            let half = found.explanations.iter().find_map(|found| Some((found.half_cells()?, found)));
            let (by, explanation) = half.unwrap_or_else(|| panic!("{x},{y} {asks:?}: {:?}", found.explanations));
            assert_eq!((by, explanation.geometry.corner_of_first(BOARD)), ((x, y), corner), "{asks:?}");
            assert!(!found.explanations[0].is_correct());
        }
    }
}

#[test]
fn a_hotspot_off_by_a_few_pixels_is_named() {
    let (geometry, _) = telling();
    for (dx, dy) in [(3.0, 0.0), (-2.0, 5.0), (0.0, -4.0)] {
        let real = (7.0 + dx, -4.0 + dy);
        let all: Vec<Sample> = (0..600)
            .map(|at| {
                let world = WorldPoint { x: f64::from(at * 13 % 150) + 41.0, y: f64::from(at * 17 % 167) - 9.0 };
                sample((world.x, world.y), Numbers::new(&geometry, BOARD, real).cell(world))
            })
            .collect();
        let found = diagnose(&given(&geometry, None), &Samples { asks: Asks::Cell, all });
        let first = &found.explanations[0];
        assert_eq!((first.mishap, first.fitted, first.hotspot), (None, true, Some(real)), "{dx},{dy}");
    }
}

#[test]
fn printed_lines_are_named_by_their_words_or_asked_for() {
    let board = Board { extent: BOARD, first_index: 0 };
    let read = |text: &str, names: Option<&str>| {
        let names = names.map(str::parse::<Names>).transpose()?;
        parse_samples(text, board, names.as_ref())
            .map(|samples| (samples.asks, samples.all[0].input, samples.all[0].output))
    };
    let good = [
        ("x=3 y=4 centre_x=12 centre_y=9", None, Asks::Snap, (3.0, 4.0), (12.0, 9.0)),
        ("index 9 -> col 2, row 1", None, Asks::CellOfIndex, (9.0, 0.0), (2.0, 1.0)),
        ("col 2 row 1 idx 9", None, Asks::IndexOfCell, (2.0, 1.0), (9.0, 0.0)),
        ("row 1 col 2 center_x 5 center_y 6", None, Asks::Centre, (2.0, 1.0), (5.0, 6.0)),
        ("101 40 -> 108.5 45", None, Asks::Snap, (101.0, 40.0), (108.5, 45.0)),
        ("101 40 -> 4 2", None, Asks::Cell, (101.0, 40.0), (4.0, 2.0)),
        ("2 1 -> 9", Some("column,row,index"), Asks::IndexOfCell, (2.0, 1.0), (9.0, 0.0)),
        ("9 -> 2 1", Some("index,column,row"), Asks::CellOfIndex, (9.0, 0.0), (2.0, 1.0)),
        ("7: 3 4 -> 1 0", Some("_,x,y,column,row"), Asks::Cell, (3.0, 4.0), (1.0, 0.0)),
        ("mine,yours,a,b\n3,4,1,0", Some("x,y,row,column"), Asks::Cell, (3.0, 4.0), (0.0, 1.0)),
        ("x,y,centre_x,centre_y\n1,2,12,9", None, Asks::Snap, (1.0, 2.0), (12.0, 9.0)),
        ("index,row,column\n9,1,2", None, Asks::CellOfIndex, (9.0, 0.0), (2.0, 1.0)),
        ("column,row,index\n2,1,9", None, Asks::IndexOfCell, (2.0, 1.0), (9.0, 0.0)),
    ];
    for (text, names, asks, input, output) in good {
        assert_eq!(read(text, names), Ok((asks, input, output)), "{text}");
    }
    let wrong = [
        ("3 4 -> 1 0", None, "can be read as"),
        ("3 4 -> 12.5 9", None, "can be read as"),
        ("9 2 1", None, "can be read as"),
        ("3 4 17", None, "can be read as"),
        ("3 4 -> 1 0", Some("x,y,column"), "no pair"),
        ("3 4 -> 1 0", Some("x,y,row,row"), "no pair"),
        ("3 4 -> 1 0", Some("x,y,column,rows"), "`rows` names no number"),
        ("3 4 -> 1 0 5", Some("x,y,column,row"), "5 numbers, where 4 are wanted"),
        ("x 3 y 4 col 1 row 0\nindex 3 col 1 row 0 x 5", None, "other numbers"),
    ];
    for (text, names, said) in wrong {
        let error = read(text, names).unwrap_err().to_string();
        assert!(error.contains(said), "{text}: {error}");
    }
    // A board that the numbers do not fit on leaves one way to read them.
    let small = Board { extent: Extent { columns: 3, rows: 2 }, first_index: 0 };
    assert_eq!(parse_samples("3 4 -> 1 0", small, None).unwrap().asks, Asks::Cell);
}
