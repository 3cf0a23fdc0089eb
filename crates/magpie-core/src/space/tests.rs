//! Conversions in all orientations, forth and back.

use super::{
    Cell, Extent, Fit, Geometry, IndexOrder, Origin, Position, RowsFrom, View, Where, WindowPoint, WorldPoint, YAxis,
    convert, locate, parse_position, show,
};
use proptest::prelude::*;

const BOARD: Extent = Extent { columns: 6, rows: 4 };

fn geometry() -> impl Strategy<Value = Geometry> {
    let eighths = |range: std::ops::Range<i32>| range.prop_map(|number| f64::from(number) / 8.0);
    (
        (eighths(8..800), eighths(8..800)),
        (eighths(0..80), eighths(0..80)),
        (eighths(-8000..8000), eighths(-8000..8000)),
        (any::<bool>(), any::<bool>(), any::<bool>(), any::<bool>(), 0i64..2),
    )
        .prop_map(|(size, gap, (x, y), (up, bottom, column_major, centred, first_index))| {
            let point = WorldPoint { x, y };
            Geometry {
                size,
                gap,
                origin: if centred { Origin::Centre(point) } else { Origin::Corner(point) },
                hotspot: (0.0, 0.0),
                y: if up { YAxis::Up } else { YAxis::Down },
                rows: if bottom { RowsFrom::Bottom } else { RowsFrom::Top },
                order: if column_major { IndexOrder::ColumnMajor } else { IndexOrder::RowMajor },
                first_index,
            }
        })
}

fn view() -> impl Strategy<Value = View> {
    (
        (100.0..2000.0, 100.0..2000.0),
        (50.0..1000.0, 50.0..1000.0),
        prop::sample::select(vec![Fit::Letterbox, Fit::Integer, Fit::Stretch, Fit::None]),
        (prop::sample::select(vec![1.0, 2.0, 1.5]), prop::option::of((-500.0..500.0, -500.0..500.0)), 0.25..4.0),
    )
        .prop_map(|(window, design, fit, (density, camera, zoom))| View {
            window,
            design,
            fit,
            density,
            camera: camera.map(|(x, y)| WorldPoint { x, y }),
            zoom,
            buttons: Vec::new(),
        })
}

proptest! {
    #[test]
    fn many_positions_at_once_are_answered_as_one_by_one(
        geometry in geometry(),
        points in prop::collection::vec((-1e9..1e9, -3000.0..3000.0), 1..200),
        hotspot in (-9.0..9.0, -9.0..9.0),
    ) {
        let (x, y): (Vec<f64>, Vec<f64>) = points.iter().copied().unzip();
        let (mut columns, mut rows) = (vec![0; x.len()], vec![0; x.len()]);
        super::Bulk::new(&geometry, BOARD, hotspot).cells(&x, &y, &mut columns, &mut rows);
        for (at, point) in points.into_iter().enumerate() {
            let (cell, _) = locate(&geometry, BOARD, None, hotspot, &|_| false, point);
            prop_assert_eq!((columns[at], rows[at]), (cell.column, cell.row));
        }
    }

    #[test]
    fn a_cell_comes_back_from_its_centre_its_corner_and_its_index(geometry in geometry(), column in -3i64..9, row in -3i64..7) {
        let cell = Cell::new(column, row);
        prop_assert_eq!(geometry.cell_at(BOARD, geometry.centre(BOARD, cell)), cell);
        // These numbers are multiples of an eighth: corners are exact, and a cell owns the edges on the origin's side.
        prop_assert_eq!(geometry.cell_at(BOARD, geometry.corner(BOARD, cell)), cell);
        match geometry.index(BOARD, cell) {
            Some(index) => prop_assert_eq!(geometry.cell_of_index(BOARD, index), Some(cell)),
            None => prop_assert!(!BOARD.contains(cell)),
        }
        let first = geometry.first_index;
        prop_assert_eq!(geometry.cell_of_index(BOARD, first - 1), None);
        prop_assert_eq!(geometry.cell_of_index(BOARD, first + 24), None);
        // The box holds the centre, whichever way the axes point.
        let (found, centre) = (geometry.cell_box(BOARD, cell), geometry.centre(BOARD, cell));
        prop_assert!(found.x < centre.x && centre.x < found.x + found.w);
        prop_assert!(found.y < centre.y && centre.y < found.y + found.h);
    }

    #[test]
    fn every_pixel_lies_in_one_cell_as_slow_counting_has_it(geometry in geometry(), x in -9000i32..9000, y in -9000i32..9000) {
        let point = WorldPoint { x: f64::from(x) / 8.0, y: f64::from(y) / 8.0 };
        let cell = geometry.cell_at(BOARD, point);
        let (corner, pitch) = (geometry.corner(BOARD, cell), geometry.pitch());
        let along = (point.x - corner.x, geometry.row_sign() * (point.y - corner.y));
        prop_assert!(along.0 >= 0.0 && along.0 < pitch.0 && along.1 >= 0.0 && along.1 < pitch.1);
        let found = convert(&geometry, BOARD, None, (0.0, 0.0), &|_| false, Position::World(point)).unwrap();
        let in_gap = along.0 >= geometry.size.0 || along.1 >= geometry.size.1;
        let expected = if !BOARD.contains(cell) { Where::Outside } else if in_gap { Where::Gap } else { Where::Cell };
        prop_assert_eq!(found.place, expected);
        prop_assert_eq!(found.index.is_some(), BOARD.contains(cell));
        let snap = found.snap.unwrap();
        prop_assert!(BOARD.contains(snap.cell));
        prop_assert_eq!(snap.cell == cell, BOARD.contains(cell));
    }

    #[test]
    fn long_lists_are_answered_as_single_positions_are(
        geometry in geometry(), view in view(), x in -900.0..900.0, y in -900.0..900.0, window in any::<bool>(), hx in -9.0f64..9.0,
    ) {
        let is_void = |cell: Cell| (cell.column + cell.row) % 3 == 0;
        let hotspot = (hx, -hx);
        let position = if window { Position::Window(WindowPoint { x, y }) } else { Position::World(WorldPoint { x, y }) };
        let one = convert(&geometry, BOARD, Some(&view), hotspot, &is_void, position).unwrap();
        let many = locate(&geometry, BOARD, window.then_some(&view), hotspot, &is_void, (x, y));
        prop_assert_eq!((one.cell.unwrap(), one.place), many);
    }

    #[test]
    fn the_window_and_the_world_come_back(geometry in geometry(), view in view(), x in -900.0..900.0, y in -900.0..900.0) {
        let world = WorldPoint { x, y };
        let back = view.world(geometry.y, view.window_point(geometry.y, world));
        prop_assert!((back.x - x).abs() < 1e-6 && (back.y - y).abs() < 1e-6, "{:?}", back);
        // The middle of the design is drawn, whatever the fit.
        let middle = (view.design.0 / 2.0, view.design.1 / 2.0);
        prop_assert!(view.drawn(middle));
        let point = view.window_point(geometry.y, view.world_of_design(geometry.y, middle));
        let found = convert(&geometry, BOARD, Some(&view), (9.0, 9.0), &|_| false, Position::Window(point)).unwrap();
        prop_assert_ne!(found.place, Where::Bar);
    }
}

#[test]
fn the_example_of_the_formats() {
    let geometry = Geometry::of_cells(24.0, 18.0);
    let board = Extent { columns: 6, rows: 5 };
    let position = parse_position("px:101,40").unwrap();
    let found = convert(&geometry, board, None, (0.0, 0.0), &|_| false, position).unwrap();
    assert_eq!((found.cell, found.index, found.local), (Some(Cell::new(4, 2)), Some(16), Some((5.0, 4.0))));
    assert_eq!(found.corner, Some(WorldPoint { x: 96.0, y: 36.0 }));
    assert_eq!(found.centre, Some(WorldPoint { x: 108.0, y: 45.0 }));
    assert_eq!(&found.steps[..2], ["x: t = 101 + 0 - 0 = 101", "column = floor(101 / 24) = floor(4.2083333) = 4"]);
}

#[test]
fn bars_lie_beside_the_picture_and_void_inside() {
    let geometry = Geometry::of_cells(10.0, 10.0);
    let view = View {
        window: (200.0, 100.0),
        design: (60.0, 60.0),
        fit: Fit::Letterbox,
        density: 2.0,
        camera: None,
        zoom: 1.0,
        buttons: Vec::new(),
    };
    let at = |x: f64, y: f64| {
        let position = Position::Window(WindowPoint { x, y });
        convert(&geometry, BOARD, Some(&view), (0.0, 0.0), &|cell| cell.row == 1, position).unwrap()
    };
    // 100 px high: k = 100/60, bars of 50 px each side, reported at half.
    assert_eq!(at(24.9, 10.0).place, Where::Bar);
    assert_eq!((at(25.0, 1.0).place, at(25.0, 1.0).cell), (Where::Cell, Some(Cell::new(0, 0))));
    assert_eq!(at(26.0, 9.0).place, Where::Void);
    assert_eq!(at(75.0, 10.0).place, Where::Bar, "the far edge is no longer drawn");
    assert_eq!(at(26.0, 45.0).place, Where::Outside, "drawn, but below the board");
}

#[test]
fn positions_are_read_strictly() {
    for good in ["px:-1.5,40", "win:0,0", "cell:-3,9", "index:0", "px:1000000000,0"] {
        assert!(parse_position(good).is_ok(), "{good}");
    }
    for bad in [
        "px:1",
        "px:1,2,3",
        "px:1e3,4",
        "px:,4",
        "px:nan,4",
        "px:1000000001,0",
        "cell:1.5,2",
        "index:",
        "at:1,2",
        "px:+1,2",
        "",
    ] {
        assert!(parse_position(bad).is_err(), "{bad}");
    }
    assert_eq!([show(4.208_333_333), show(-0.0), show(16.0), show(0.1)], ["4.2083333", "0", "16", "0.1"]);
}

mod ways {
    use super::super::exact::{Fraction, as_written, exact_cell, nearest, quotients, single_cell};
    use super::super::{cells_between, landmarks, pass_over};
    use super::*;
    use crate::limits::LONGEST_WALK;

    /// The cells at every border that a way crosses and between them, by exact fractions: slow and obvious.
    fn slow_walk(geometry: &Geometry, from: WorldPoint, to: WorldPoint) -> Vec<Cell> {
        let (a, b) = (quotients(geometry, BOARD, (0.0, 0.0), from), quotients(geometry, BOARD, (0.0, 0.0), to));
        let whole = |number: i64| Fraction::from_integer(number.into());
        let zero = whole(0);
        let mut shares = vec![zero.clone(), whole(1)];
        for axis in 0..2 {
            let run = &b[axis] - &a[axis];
            if run != zero {
                let crossed = (-60..60).map(|border| (whole(border) - &a[axis]) / &run);
                shares.extend(crossed.filter(|share| *share >= zero && *share <= whole(1)));
            }
        }
        shares.sort();
        shares.dedup();
        let between: Vec<Fraction> = shares.windows(2).map(|pair| (&pair[0] + &pair[1]) / whole(2)).collect();
        shares.extend(between);
        shares.sort();
        let at = |share: &Fraction| {
            let along = |axis: usize| nearest(&(&a[axis] + (&b[axis] - &a[axis]) * share).floor()) as i64;
            Cell::new(along(0), along(1))
        };
        let mut cells: Vec<Cell> = shares.iter().map(at).collect();
        cells.dedup();
        cells
    }

    proptest! {
        #[test]
        fn a_way_passes_the_cells_that_slow_counting_finds(
            geometry in geometry(),
            ends in prop::array::uniform4(-30i32..90),
        ) {
            // Ends on quarters of the pitch, so that ways through corners are common.
            let (w, h) = geometry.pitch();
            let origin = geometry.corner_of_first(BOARD);
            let point = |x: i32, y: i32| WorldPoint {
                x: origin.x + f64::from(x) * w / 4.0,
                y: origin.y + f64::from(y) * h / 4.0,
            };
            let (from, to) = (point(ends[0], ends[1]), point(ends[2], ends[3]));
            prop_assert_eq!(cells_between(&geometry, BOARD, (0.0, 0.0), from, to), Some(slow_walk(&geometry, from, to)));
        }

        #[test]
        fn numbers_of_eighths_are_exact_in_f64(geometry in geometry(), x in -4000i32..4000, y in -4000i32..4000) {
            let world = WorldPoint { x: f64::from(x) / 8.0, y: f64::from(y) / 8.0 };
            let [column, row] = quotients(&geometry, BOARD, (0.0, 0.0), world).map(|q| nearest(&q));
            let cell = exact_cell(&geometry, BOARD, (0.0, 0.0), world);
            prop_assert_eq!((column.floor() as i64, row.floor() as i64), (cell.column, cell.row));
            prop_assert_eq!(geometry.cell_at(BOARD, world), cell);
        }

        #[test]
        fn the_nine_points_lie_where_their_names_say(geometry in geometry()) {
            let cell = Cell::new(2, 1);
            let all = landmarks(&geometry, BOARD, cell);
            let named = |name: &str| all.iter().find(|spot| spot.name == name).unwrap().world;
            let up = if geometry.y == YAxis::Down { -1.0 } else { 1.0 };
            prop_assert!(named("west").x < named("centre").x && named("centre").x < named("east").x);
            prop_assert!((named("north").y - named("south").y) * up > 0.0);
            prop_assert!((named("beyond north").y - named("north").y) * up > 0.0);
            prop_assert!((named("south").y - named("beyond south").y) * up > 0.0);
            prop_assert_eq!(named("centre"), geometry.centre(BOARD, cell));
            prop_assert_eq!(pass_over(&geometry, BOARD).centres, (0, None));
        }
    }

    #[test]
    fn decimals_are_exact_and_f32_parts_far_from_the_origin() {
        assert_eq!(as_written(33.3) * Fraction::from_integer(10.into()), Fraction::from_integer(333.into()));
        assert_eq!(as_written(-0.125) * Fraction::from_integer(8.into()), -Fraction::from_integer(1.into()));
        assert_eq!(as_written(1e9), Fraction::from_integer(1_000_000_000.into()));
        let origin = Origin::Corner(WorldPoint { x: 100.7, y: 0.0 });
        let geometry = Geometry { origin, ..Geometry::of_cells(33.3, 16.0) };
        let board = Extent { columns: 40, rows: 40 };
        // Sums of such numbers are rounded, so that some corners fall to a neighbour.
        let pass = pass_over(&geometry, board);
        assert_eq!((pass.centres, pass.indices, pass.cells), ((0, None), (0, None), 1600));
        let (count, first) = pass.corners;
        let first = first.unwrap();
        assert!(count > 0 && count < 1600);
        let corner = geometry.corner(board, first);
        assert_ne!(geometry.cell_at(board, corner), first);
        let far = WorldPoint { x: 16_777_217.0, y: 0.0 };
        let unit = Geometry::of_cells(1.0, 1.0);
        assert_eq!(single_cell(&unit, board, (0.0, 0.0), far).column, 16_777_216);
        assert_eq!(exact_cell(&unit, board, (0.0, 0.0), far).column, 16_777_217);
        let centred = Geometry { origin: Origin::Centre(WorldPoint { x: 0.5, y: 0.0 }), ..geometry };
        assert_eq!(exact_cell(&centred, board, (0.0, 0.0), WorldPoint { x: 0.5, y: 0.0 }).column, 20);
        let too_long = WorldPoint { x: 40.0 * LONGEST_WALK as f64, y: 0.0 };
        assert_eq!(cells_between(&unit, board, (0.0, 0.0), WorldPoint { x: 0.0, y: 0.0 }, too_long), None);
    }
}

#[test]
fn uneven_numbers_are_said_in_words() {
    use super::whole::{is_centred, middle_of_picture, remarks};
    let view = View {
        window: (640.0, 400.0),
        design: (1200.0, 800.0),
        fit: Fit::Letterbox,
        density: 2.0,
        camera: None,
        zoom: 1.0,
        buttons: Vec::new(),
    };
    let origin = Origin::Corner(WorldPoint { x: 100.0, y: 700.0 });
    let kiosk = Geometry { gap: (10.0, 16.0), origin, rows: RowsFrom::Bottom, ..Geometry::of_cells(90.0, 84.0) };
    let board = Extent { columns: 10, rows: 6 };
    let odd = |geometry: &Geometry, view: &View| -> Vec<String> {
        let all = remarks(geometry, board, Some(view));
        all.into_iter().filter(|remark| !remark.even).map(|remark| remark.text).collect()
    };
    let told = odd(&kiosk, &view);
    assert_eq!(
        told,
        [
            "one design pixel is 0.5 window px; bars 20 px left and right, 0 px above and below",
            "left over: 100 px left, 110 px right, 116 px above, 100 px below",
        ]
    );
    assert!(!is_centred(&kiosk, board, &view));
    let middle = middle_of_picture(&view, YAxis::Down);
    let centred = Geometry { origin: Origin::Centre(middle), ..kiosk.clone() };
    assert!(is_centred(&centred, board, &view));
    let narrow = View { design: (1250.0, 800.0), ..view.clone() };
    assert!(odd(&kiosk, &narrow)[0].contains("12 columns and 50 px of another: 1200 or 1300 px would be whole"));
    let small = View { design: (800.0, 400.0), ..view };
    assert!(odd(&kiosk, &small).contains(&"10 columns do not fit: 800 px of 990 are seen".to_owned()));
}

/// The first version took the largest negative index for a small one.
#[test]
fn indices_are_limited_alike_on_both_sides() {
    for index in ["9223372036854775807", "-9223372036854775808", "1000000000000001", "-1000000000000001"] {
        let error = parse_position(&format!("index:{index}")).unwrap_err();
        assert!(matches!(error, super::PositionError::Limit { .. }), "{index}: {error}");
    }
    assert!(parse_position("index:-1000000000000000").is_ok());
}

/// At the edges of cells, right beside them, and far beyond what a position may be: every number is the floor.
#[test]
fn many_positions_at_once_are_floored_at_every_size() {
    let grid = Geometry::of_cells(1.0, 1.0);
    let edges =
        [0.0, -0.0, 0.5, 1.0, 2.0, 3.0, 1e9, 2e15, 2_251_799_813_685_247.5, 2_251_799_813_685_248.0, 4e15, 1e18, 1e300];
    let around = |edge: f64| [edge, edge.next_up(), edge.next_down(), -edge, (-edge).next_up(), (-edge).next_down()];
    let mut all: Vec<f64> = edges.into_iter().flat_map(around).collect();
    all.extend([f64::MIN_POSITIVE, -f64::MIN_POSITIVE, f64::INFINITY, f64::NEG_INFINITY, f64::NAN]);
    // Alone, and among others: a large one in a chunk must not change its neighbours.
    for positions in [
        all.clone(),
        all.iter().flat_map(|x| [*x, -7.25, 7.25]).collect(),
        all.iter().map(|x| x.clamp(-1e9, 1e9)).collect(),
    ] {
        let (mut columns, mut rows) = (vec![7; positions.len()], vec![7; positions.len() - 1]);
        super::Bulk::new(&grid, BOARD, (0.0, 0.0)).cells(&positions, &positions, &mut columns, &mut rows);
        for (x, column) in positions.iter().zip(&columns) {
            assert_eq!(*column, x.floor() as i64, "{x}");
        }
        assert_eq!(columns[..rows.len()], rows, "the shortest array says how many");
    }
}
