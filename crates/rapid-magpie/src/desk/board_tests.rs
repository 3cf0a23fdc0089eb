use super::BoardLayout;
use crate::bench::tests::loaded;
use magpie_core::rulebook::Rulebook;
use magpie_core::space::{Cell, Extent};
use proptest::prelude::*;
use ratatui::layout::Rect;

fn book(rows: &str) -> Rulebook {
    let source = format!("game \"Y\"\ncell 8 px\nrows from {rows}\nkinds\n  keeper K body\nmap \"M\"\n  K\n");
    loaded(&source).reading.rulebook.unwrap()
}

fn layout() -> impl Strategy<Value = (BoardLayout, Extent)> {
    let sizes = (1..14_u16, 1..7_u16, 1..40_u32, 1..30_u32, 0..5_u32, 0..5_u32);
    sizes.prop_map(|(w, h, columns, rows, left, top)| {
        let seen = (columns.min(9), rows.min(8));
        let area = Rect::new(7, 3, seen.0 as u16 * w, seen.1 as u16 * h);
        let pane = Rect::new(2, 1, area.width + 12, area.height + 6);
        let first = (left.min(columns - seen.0), top.min(rows - seen.1));
        (BoardLayout { pane, area, first, seen, size: (w, h) }, Extent { columns, rows })
    })
}

proptest! {
    /// What is drawn where and what a click there names are one thing, whichever edge rows count from.
    #[test]
    fn every_character_of_a_cell_names_that_cell_and_no_other_does(
        (layout, extent) in layout(), rows in prop::sample::select(vec!["top", "bottom"]),
    ) {
        let book = book(rows);
        let mut named = 0;
        for (column, line) in (0..150).flat_map(|column| (0..70).map(move |line| (column, line))) {
            let found = layout.cell_at(&book, extent, column, line);
            if let Some((cell, (across, down))) = found {
                let rect = layout.rect(&book, extent, cell).unwrap();
                prop_assert!(rect.contains((column, line).into()), "{:?} at {}, {}", cell, column, line);
                prop_assert!((0.0..1.0).contains(&across) && (0.0..1.0).contains(&down));
                prop_assert_eq!(layout.place_at(&book, extent, column, line), Some(cell));
                named += 1;
            } else {
                prop_assert!(!layout.area.contains((column, line).into()), "a hole at {}, {}", column, line);
            }
            prop_assert_eq!(layout.place_at(&book, extent, column, line).is_some(), layout.pane.contains((column, line).into()));
        }
        prop_assert_eq!(named, u32::from(layout.area.width) * u32::from(layout.area.height));
    }

    /// A cell that is not seen has no characters.
    #[test]
    fn cells_out_of_sight_have_no_place((layout, extent) in layout(), column in -2..45_i64, row in -2..35_i64) {
        let (cell, book) = (Cell::new(column, row), book("top"));
        let inside = |at: i64, first: u32, seen: u32| (i64::from(first)..i64::from(first + seen)).contains(&at);
        let seen = inside(column, layout.first.0, layout.seen.0) && inside(row, layout.first.1, layout.seen.1);
        prop_assert_eq!(layout.rect(&book, extent, cell).is_some(), seen);
    }
}
