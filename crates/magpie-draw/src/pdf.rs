//! An SVG of ours as a PDF.

use crate::DrawError;
use krilla::Document;
use krilla::SerializeSettings;
use krilla::geom::Size;
use krilla::metadata::Metadata;
use krilla::page::PageSettings;
use krilla_svg::{SurfaceExt, SvgSettings};
use std::sync::Arc;
use usvg::{Options, Tree, fontdb};

/// Points a unit: a drawing of 96 units is an inch wide.
const SCALE: f32 = 0.75;

/// The embedded fonts alone: what is installed on a machine never counts.
fn fonts() -> fontdb::Database {
    let mut fonts = fontdb::Database::new();
    for font in [dejavu::sans::regular(), dejavu::sans::bold(), dejavu::sans_mono::regular(), dejavu::sans_mono::bold()]
    {
        fonts.load_font_data(font.to_vec());
    }
    fonts.set_sans_serif_family("DejaVu Sans");
    fonts.set_serif_family("DejaVu Sans");
    fonts.set_monospace_family("DejaVu Sans Mono");
    fonts
}

/// A PDF of one page, as large as the drawing.
pub(crate) fn of_svg(svg: &str, title: &str) -> Result<Vec<u8>, DrawError> {
    let wrong = |what: String| DrawError::Pdf(what);
    let options = Options { fontdb: Arc::new(fonts()), font_family: "DejaVu Sans".into(), ..Options::default() };
    let tree = Tree::from_str(svg, &options).map_err(|error| wrong(error.to_string()))?;
    let (width, height) = (tree.size().width() * SCALE, tree.size().height() * SCALE);
    let size = Size::from_wh(width, height).ok_or_else(|| wrong("it has no size".into()))?;
    let mut document = Document::new_with(SerializeSettings::default());
    document.set_metadata(Metadata::new().title(title.replace('\u{a0}', " ")).creator("rapid-magpie".into()));
    let mut page = document.start_page_with(PageSettings::new(size));
    let mut surface = page.surface();
    surface.draw_svg(&tree, size, SvgSettings::default()).ok_or_else(|| wrong("it cannot be drawn".into()))?;
    surface.finish();
    page.finish();
    document.finish().map_err(|error| wrong(format!("{error:?}")))
}
