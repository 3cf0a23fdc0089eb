use super::*;
use crate::space::{Cell, Extent, Fit, Geometry, IndexOrder, Origin, RowsFrom, View, WindowPoint, WorldPoint, YAxis};
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
                        version.at_position(target, &numbers, world) != right
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
                let elsewhere = mishap == Mishap::YTurnedRound && !target.is_vertical() && target != Target::Index;
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
    Given { geometry, extent: BOARD, view, hotspot: (7.0, -4.0) }
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
        assert_eq!(names, [(Some(mishap), None, None)], "{}", mishap.id());
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
    let (x, y) = found.next.expect("there is doubt");
    let world = asked(&geometry, &view, WorldPoint { x, y }, false);
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
    let found = diagnose(
        &Given { geometry: &book, extent: BOARD, view: None, hotspot: (0.0, 0.0) },
        &Samples { asks: Asks::Cell, all: all.to_vec() },
    );
    let fitted = found.explanations.iter().find(|found| found.fitted).expect("numbers that fit");
    assert_eq!((fitted.geometry.size, fitted.mishap), ((32.0, 32.0), None));
    assert_eq!(fitted.geometry.origin, origin);
    let centres = [(0, 0), (3, 1), (6, 4)].map(|(column, row)| {
        let middle = real.centre(BOARD, Cell::new(column, row));
        sample((column as f64, row as f64), [middle.x, middle.y])
    });
    let samples = Samples { asks: Asks::Centre, all: centres.to_vec() };
    let found = diagnose(&Given { geometry: &book, extent: BOARD, view: None, hotspot: (0.0, 0.0) }, &samples);
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
    let read = |text: &str| parse_samples(text).map(|samples| (samples.asks, samples.all));
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
    assert_eq!(read("12 30 -> 17").unwrap().0, Asks::Index);
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
