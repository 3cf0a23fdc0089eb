use super::*;
use crate::mishap::{Given, Mishap, Numbers, Target};
use crate::space::{Extent, Geometry, IndexOrder, Origin, RowsFrom, WorldPoint, YAxis};
use proptest::prelude::*;

/// The board of docs/formats.md: 4 × 4 cells of 16 px, 40 px from the left and 28 from the top.
const BOARD: Extent = Extent { columns: 4, rows: 4 };

fn grid() -> Geometry {
    let origin = Origin::Corner(WorldPoint { x: 40.0, y: 28.0 });
    Geometry { origin, ..Geometry::of_cells(16.0, 16.0) }
}

fn names(geometry: &Geometry, extent: Extent, ints: bool) -> Names {
    let given = [("TILE".to_owned(), 16.0), ("_half".to_owned(), 8.0)];
    Names::new(Numbers::new(geometry, extent, (0.0, 0.0)), &given, ints).unwrap()
}

fn value(source: &str, target: Target, ints: bool, at: (f64, f64)) -> f64 {
    let expression = parse_expression(source, target, &names(&grid(), BOARD, ints)).unwrap();
    expression.value(at.0, at.1, &mut Vec::new())
}

fn hold(geometry: &Geometry, extent: Extent, all: &[(Target, &str)]) -> Comparison {
    let names = names(geometry, extent, false);
    let expressions: Vec<Expression> =
        all.iter().map(|(target, source)| parse_expression(source, *target, &names).unwrap()).collect();
    compare(&Given::of_world(geometry, extent, (0.0, 0.0)), &expressions, (8, 8), &mut |_| true).unwrap()
}

#[test]
fn expressions_have_the_values_that_programmers_expect() {
    let cases = [
        ("1 + 2 * 3", 7.0),
        ("(1 + 2) * 3", 9.0),
        ("-x", -50.0),
        ("- - 3", 3.0),
        ("7 / 2", 3.5),
        ("-7 // 2", -4.0),
        ("7 % 3 - -7 % 3", 2.0),
        ("10 - 4 - 3", 3.0),
        ("floor(-2.5) + ceil(-2.5)", -5.0),
        ("round(2.5) + round(-2.5)", 0.0),
        ("int(-2.9) + trunc(2.9)", 0.0),
        ("abs(-3) + min(4, 2, 9) + max(1, 5)", 10.0),
        ("Math.floor((x - ox) / cell)", 0.0),
        ("math.floor(y/h)", 3.0),
        ("columns * 100 + rows", 404.0),
        ("TILE + _half", 24.0),
        ("pitch + gap + w + gx + hx", 32.0),
        (".5 + 1.", 1.5),
    ];
    for (source, wanted) in cases {
        assert_eq!(value(source, Target::Column, false, (50.0, 60.0)), wanted, "{source}");
    }
    let whole = [("7 / 2", 3.0), ("-7 / 2", -3.0), ("-7 // 2", -4.0), ("7 * 3 / 2", 10.0)];
    for (source, wanted) in whole {
        assert_eq!(value(source, Target::Row, true, (50.0, 60.0)), wanted, "{source} in whole numbers");
    }
    let questions = [
        ("column >= 0 and column < columns", 1.0),
        ("not (row = 2)", 1.0),
        ("not row = 2 or column != 1", 1.0),
        ("column == 1 && row == 9", 0.0),
        ("row", 3.0),
        ("1 / 0 > 5", 1.0),
    ];
    for (source, wanted) in questions {
        assert_eq!(value(source, Target::Inside, false, (1.0, 3.0)), wanted, "{source}");
    }
    assert!(value("min(0 / 0, 3)", Target::Column, false, (0.0, 0.0)).is_nan());
}

#[test]
fn a_wrong_expression_is_underlined_where_it_is_wrong() {
    let deep = format!("{}x{}", "(".repeat(65), ")".repeat(65));
    let long = "1+".repeat(2048) + "1";
    let cases = [
        ("", Target::Column, 0..1, "expected a number, a name or `(`, found its end"),
        ("x +", Target::Column, 3..4, "expected a number, a name or `(`, found its end"),
        ("(x", Target::Column, 2..3, "expected `)`, found its end"),
        ("x)", Target::Column, 1..2, "a `)` without its `(`"),
        ("x y", Target::Column, 2..3, "expected an operator, found `y`"),
        ("size * x", Target::Column, 0..4, "`size` is no name here"),
        ("column + 1", Target::Column, 0..6, "`column` is not known here: this is asked at a position"),
        ("x + 1", Target::Index, 0..1, "`x` is not known here: this is asked at a cell"),
        ("x < 3", Target::Column, 2..3, "`<` asks yes or no"),
        ("0 <= column < 4", Target::Inside, 12..13, "two comparisons in a row"),
        ("floor x", Target::Column, 6..7, "expected `(`, found `x`"),
        ("floor(x, y)", Target::Column, 0..5, "`floor` takes one value, here are 2"),
        ("min(x)", Target::Column, 0..3, "`min` takes two values or more, here is one"),
        ("sin(x)", Target::Column, 0..3, "`sin` is no name here"),
        ("Math.sin(x)", Target::Column, 5..8, "expected one of floor ceil"),
        ("16px", Target::Column, 0..4, "`16px` is no number"),
        ("1.2.3", Target::Column, 0..5, "`1.2.3` is no number"),
        ("x § 2", Target::Column, 2..4, "`§` means nothing in an expression"),
        (&deep, Target::Column, 65..66, "at most 64 deep"),
        (&long, Target::Column, 4096..4097, "at most 4096 characters"),
    ];
    for (source, target, at, message) in cases {
        let error = parse_expression(source, target, &names(&grid(), BOARD, false)).unwrap_err();
        assert_eq!(error.at, at, "{source}: {error}");
        assert!(error.message.contains(message), "{source}: {error}");
    }
    let error = parse_expression("x * 0.5", Target::Column, &names(&grid(), BOARD, true)).unwrap_err();
    assert_eq!(error.at, 4..7, "{error}");
}

#[test]
fn names_with_a_meaning_and_broken_whole_numbers_are_refused() {
    let numbers = Numbers::new(&grid(), BOARD, (0.0, 0.0));
    let new = |name: &str, value: f64, ints: bool| Names::new(numbers, &[(name.into(), value)], ints).map(|_| ());
    for name in ["x", "row", "cell", "pitch", "floor", "and", "Math"] {
        assert_eq!(new(name, 1.0, false), Err(NamesError::Taken(name.into())));
    }
    for name in ["", "2x", "a-b", "ä"] {
        assert_eq!(new(name, 1.0, false), Err(NamesError::Form(name.into())));
    }
    assert_eq!(new("k", 0.5, false), Ok(()));
    assert!(matches!(new("k", 0.5, true), Err(NamesError::NotWhole { .. })));
    let small = Numbers::new(&Geometry::of_cells(7.0, 16.0), BOARD, (0.0, 0.0));
    assert_eq!(Names::new(small, &[], true).map(|_| ()), Err(NamesError::SmallPitch(7.0)));
    let broken = Numbers::new(&Geometry::of_cells(33.3, 16.0), BOARD, (0.0, 0.0));
    assert!(matches!(Names::new(broken, &[], true), Err(NamesError::NotWhole { .. })));
}

#[test]
fn the_example_of_the_formats_comes_out() {
    let columns = Extent { columns: 4, rows: 1 };
    let origin = Origin::Corner(WorldPoint { x: 40.0, y: 32.0 });
    let geometry = Geometry { origin, size: (16.0, 20.0), ..grid() };
    let found =
        hold(&geometry, columns, &[(Target::Column, "int((x - ox) / cell)"), (Target::Row, "floor((y - oy) / cell)")]);
    let sampled = found.sampled.unwrap();
    assert_eq!((sampled.pixels, sampled.x, sampled.y, sampled.differ), (5760, (24.0, 119.0), (12.0, 71.0), 900));
    let column = &found.findings[0];
    assert_eq!((column.differ, column.not_whole, column.mishap), (900, 0, Some(Mishap::Truncated)));
    assert_eq!(column.on_board, 0, "right wherever it matters");
    assert_eq!(column.first[0], Miss { at: MissAt::Position(25.0, 12.0), right: -1.0, got: Some(0.0) });
    assert_eq!(column.first.len(), 10);
    assert_eq!((found.findings[1].differ, found.findings[1].mishap), (0, None));
    assert_eq!(found.map.differ.iter().sum::<u64>(), 900);
    assert_eq!(found.map.all.iter().sum::<u64>(), 5760);
}

#[test]
fn differing_places_of_the_board_are_counted_by_themselves() {
    let board = Extent { columns: 3, rows: 2 };
    let geometry = Geometry {
        gap: (3.0, 2.0),
        origin: Origin::Corner(WorldPoint { x: 7.0, y: 5.0 }),
        ..Geometry::of_cells(15.0, 15.0)
    };
    let of = |target, text| {
        let found = hold(&geometry, board, &[(target, text)]);
        (found.findings[0].differ, found.findings[0].on_board)
    };
    // 3 columns of 18 px and 2 rows of 17 px, and one more on every side.
    assert_eq!(of(Target::Column, "99"), (90 * 68, 54 * 34));
    assert_eq!(of(Target::Column, "99 + 0 * y"), (90 * 68, 54 * 34), "looked at position by position");
    assert_eq!(of(Target::Row, "99"), (90 * 68, 54 * 34));
    let unclamped = of(Target::SnapX, "ox + floor((x - ox) / pitch) * pitch + w / 2");
    assert_eq!(unclamped, (36 * 68, 0), "wrong in the column before the first and behind the last alone");
    assert_eq!(of(Target::Index, "99"), (6, 6));
}

/// The first version passed over what is not finite, and remarked on centres that lie between pixels.
#[test]
fn what_is_not_whole_is_counted_where_a_whole_number_is_asked_for() {
    let board = Extent { columns: 3, rows: 2 };
    let geometry = Geometry::of_cells(15.0, 15.0);
    let of = |target, text| {
        let found = hold(&geometry, board, &[(target, text)]);
        (found.findings[0].differ, found.findings[0].not_whole)
    };
    let pixels = 75 * 60;
    assert_eq!(of(Target::Column, "x / 0"), (pixels, pixels));
    assert_eq!(of(Target::Index, "(column + row) / 0"), (6, 6));
    assert_eq!(of(Target::Index, "row * columns + column + 0.5"), (6, 6));
    assert_eq!(of(Target::CentreX, "ox + column * pitch + w / 2"), (0, 0), "middles lie between pixels");
    assert_eq!(of(Target::SnapX, "x / 0").1, 0);
}

#[test]
fn mistakes_as_programmers_write_them_are_named() {
    let origin = Origin::Corner(WorldPoint { x: 40.0, y: 28.0 });
    let geometry = Geometry { gap: (2.0, 3.0), origin, ..Geometry::of_cells(14.0, 17.0) };
    let board = Extent { columns: 6, rows: 4 };
    let cases = [
        (Target::Column, "trunc((x - ox) / pitch)", Some(Mishap::Truncated)),
        (Target::Column, "round((x - ox) / (w + gx))", Some(Mishap::Rounded)),
        (Target::Column, "floor((x - ox) / pitch + 0.5)", Some(Mishap::Rounded)),
        (Target::Column, "floor(x / pitch)", Some(Mishap::OriginForgotten)),
        (Target::Column, "floor(x / pitch) - ox", Some(Mishap::OriginAfterDivision)),
        (Target::Column, "floor(x - ox / pitch)", Some(Mishap::OnlyOffsetDivided)),
        (Target::Column, "floor((x - ox) / cell)", Some(Mishap::GapForgotten)),
        (Target::Column, "floor((y - oy) / (h + gy))", Some(Mishap::AxesSwapped)),
        (Target::Column, "(x - ox) // pitch + 1", Some(Mishap::CountedFromOne)),
        (Target::Column, "(x - ox) / pitch", Some(Mishap::NotFloored)),
        (Target::Column, "ceil((x - ox) / pitch) - 1", Some(Mishap::FarEdgeOwned)),
        (Target::Column, "floor((x - 3 * ox) / pitch)", None),
        (Target::Row, "rows - 1 - floor((y - oy) / pitch)", Some(Mishap::YTurnedRound)),
        (Target::Row, "floor((rows * pitch - (y - oy)) / pitch)", Some(Mishap::YTurnedRound)),
        (Target::Row, "floor((oy - y) / pitch)", Some(Mishap::YTurnedRound)),
        (Target::Index, "row * rows + column", Some(Mishap::IndexByHeight)),
        (Target::Index, "row * columns + column + 1", Some(Mishap::CountedFromOne)),
        (Target::CentreX, "ox + column * pitch", Some(Mishap::CornerForCentre)),
        (Target::CentreX, "ox + column * pitch + w", Some(Mishap::HalfCellTwice)),
        (Target::CentreY, "row + oy", Some(Mishap::SizeNotMultipliedBack)),
        (Target::SnapX, "ox + floor((x - ox) / pitch) * pitch + w / 2", Some(Mishap::NotClamped)),
        (Target::SnapX, "min(max(floor(x / pitch), 0), columns - 1) * pitch + w / 2", Some(Mishap::OriginForgotten)),
        (Target::Inside, "column >= 0 and column <= columns and row >= 0 and row <= rows", Some(Mishap::FarEdgeOwned)),
        (Target::Inside, "column < columns and row < rows", Some(Mishap::LowerBoundForgotten)),
        (Target::Inside, "column >= 0 and column < columns", Some(Mishap::OneAxisChecked)),
    ];
    for (target, source, mishap) in cases {
        let found = hold(&geometry, board, &[(target, source)]);
        assert_eq!(found.findings[0].mishap, mishap, "{source}");
        assert!(found.findings[0].differ > 0, "{source}");
    }
}

#[test]
fn limits_and_stops_are_told() {
    let wide = Extent { columns: 2000, rows: 2000 };
    let geometry = grid();
    let names = names(&geometry, wide, false);
    let read = |source: &str| vec![parse_expression(source, Target::Column, &names).unwrap()];
    let run =
        |source: &str| compare(&Given::of_world(&geometry, wide, (0.0, 0.0)), &read(source), (1, 1), &mut |_| false);
    assert_eq!(run("x + 0 * y"), Err(LimitReached::Pixels(2002 * 2002 * 256)));
    assert!(run("floor((x - ox) / 16)").is_ok(), "one axis is worked out at any size");
    let small = Extent { columns: 100, rows: 100 };
    let names = Names::new(Numbers::new(&geometry, small, (0.0, 0.0)), &[], false).unwrap();
    let both = vec![parse_expression("x + 0 * y", Target::Column, &names).unwrap()];
    let stopped = compare(&Given::of_world(&geometry, small, (0.0, 0.0)), &both, (1, 1), &mut |_| false);
    assert_eq!(stopped, Err(LimitReached::Stopped));
}

fn geometries() -> impl Strategy<Value = Geometry> {
    let size = prop_oneof![4u32..40, 60u32..400].prop_map(|size| f64::from(size) / 4.0);
    ((size.clone(), size), (0u8..5, 0u8..5), (-90i32..90, -90i32..90), any::<[bool; 3]>()).prop_map(
        |(size, gap, origin, [up, bottom, by_columns])| Geometry {
            size,
            gap: (f64::from(gap.0), f64::from(gap.1) / 2.0),
            origin: Origin::Corner(WorldPoint { x: f64::from(origin.0) / 2.0, y: f64::from(origin.1) }),
            hotspot: (0.0, 0.0),
            y: if up { YAxis::Up } else { YAxis::Down },
            rows: if bottom { RowsFrom::Bottom } else { RowsFrom::Top },
            order: if by_columns { IndexOrder::ColumnMajor } else { IndexOrder::RowMajor },
            first_index: 0,
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// The quick ways (along one axis) against a slow one that looks at every position by itself.
    #[test]
    fn along_one_axis_and_at_every_position_say_the_same(
        geometry in geometries(),
        hotspot in (-9i32..9, -9i32..9),
        columns in 1u32..5,
        rows in 1u32..5,
        wrong in prop::sample::select(vec!["int", "round", "ceil", "floor"]),
    ) {
        let extent = Extent { columns, rows };
        let hotspot = (f64::from(hotspot.0), f64::from(hotspot.1));
        let numbers = Numbers::new(&geometry, extent, hotspot);
        let names = Names::new(numbers, &[], false).unwrap();
        let sign = if geometry.row_sign() < 0.0 { "-" } else { "" };
        let sources = [
            (Target::Column, format!("{wrong}((x + hx - ox) / pitch)"), format!("{wrong}((x + hx - ox) / pitch) + 0 * y")),
            (Target::Row, format!("{wrong}({sign}(y + hy - oy) / pitch)"), format!("{wrong}({sign}(y + hy - oy) / pitch) + 0 * x")),
        ];
        for (target, quick, slow) in &sources {
            let run = |source: &str| {
                let expression = parse_expression(source, *target, &names).unwrap();
                compare(&Given::of_world(&geometry, extent, hotspot), &[expression], (7, 5), &mut |_| true).unwrap()
            };
            let (quick, slow) = (run(quick), run(slow));
            prop_assert_eq!(quick.sampled, slow.sampled);
            prop_assert_eq!(&quick.map, &slow.map);
            let (quick, slow) = (&quick.findings[0], &slow.findings[0]);
            prop_assert_eq!(quick.differ, slow.differ);
            prop_assert_eq!(&quick.first, &slow.first);
            prop_assert_eq!(quick.mishap, slow.mishap);
            if wrong == "floor" {
                prop_assert_eq!(quick.differ, 0, "the right formula is right");
            }
        }
        for vertical in [false, true] {
            let axis = if vertical { numbers.y } else { numbers.x };
            let found = sampling(&Given::of_world(&geometry, extent, hotspot), vertical);
            let inside = |multiple: i64| (-1.0..=f64::from(axis.count)).contains(&axis.cell(found.at(multiple)));
            prop_assert!(inside(found.first) && inside(found.last));
            prop_assert!(!inside(found.first - 1) && !inside(found.last + 1));
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    /// The usual expressions are right on every grid: whichever way its axes run, with gaps and a hotspot, wherever it begins.
    #[test]
    fn the_usual_expressions_differ_nowhere(
        (w, h, gx, gy) in (4u32..40, 4u32..40, 0u32..6, 0u32..6),
        (ox, oy, hx, hy) in (-60i32..60, -60i32..60, -9i32..9, -9i32..9),
        (up, bottom, column_major, first) in (any::<bool>(), any::<bool>(), any::<bool>(), 0i64..2),
        (columns, rows) in (1u32..9, 1u32..9),
        parts in prop::sample::select(vec![1.0, 2.0, 8.0]),
    ) {
        let part = |number: i32| f64::from(number) / parts;
        let geometry = Geometry {
            gap: (f64::from(gx), f64::from(gy)),
            origin: Origin::Corner(WorldPoint { x: part(ox), y: part(oy) }),
            y: if up { YAxis::Up } else { YAxis::Down },
            rows: if bottom { RowsFrom::Bottom } else { RowsFrom::Top },
            order: if column_major { IndexOrder::ColumnMajor } else { IndexOrder::RowMajor },
            first_index: first,
            ..Geometry::of_cells(f64::from(w), f64::from(h))
        };
        let (extent, hotspot) = (Extent { columns, rows }, (part(hx), part(hy)));
        let names = Names::new(Numbers::new(&geometry, extent, hotspot), &[], false).unwrap();
        let all: Vec<Expression> =
            Target::ALL.iter().map(|target| parse_expression(&usual(*target, &geometry), *target, &names).unwrap()).collect();
        let found = compare(&Given::of_world(&geometry, extent, hotspot), &all, (8, 8), &mut |_| true).unwrap();
        for finding in &found.findings {
            prop_assert_eq!(finding.differ, 0, "{:?}: {}", finding.target, usual(finding.target, &geometry));
        }
        prop_assert_eq!(found.findings.len(), Target::ALL.len());
    }
}
