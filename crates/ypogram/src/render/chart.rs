//! Bar charts as SVG, for pages.

use plotters::prelude::*;
use plotters::style::text_anchor::{HPos, Pos, VPos};

/// One bar: what it is of, and how long it is.
pub(crate) struct Bar {
    pub(crate) label: String,
    pub(crate) count: u64,
    /// What is written behind it.
    pub(crate) told: String,
}

const WIDTH: u32 = 520;
const ROW: i32 = 26;
const LABELS: i32 = 178;
const INK: RGBColor = RGBColor(0x22, 0x2a, 0x35);
const BAR: RGBColor = RGBColor(0x3a, 0x6e, 0xa5);

/// Bars below one another, the longest as long as there is room; empty where there are none.
pub(crate) fn bars(bars: &[Bar]) -> String {
    let mut svg = String::new();
    let longest = bars.iter().map(|bar| bar.count).max().unwrap_or_default();
    if longest == 0 {
        return svg;
    }
    {
        let area =
            SVGBackend::with_string(&mut svg, (WIDTH, bars.len() as u32 * ROW as u32)).into_drawing_area();
        let text = |h| ("sans-serif", 15).into_font().color(&INK).pos(Pos::new(h, VPos::Center));
        let room = WIDTH as i32 - LABELS - 120;
        for (row, bar) in bars.iter().enumerate() {
            let middle = row as i32 * ROW + ROW / 2;
            let length = (bar.count as f64 / longest as f64 * f64::from(room)).ceil() as i32;
            let corners = [(LABELS, middle - 8), (LABELS + length, middle + 8)];
            // A drawing in memory cannot fail.
            let _ = area.draw(&Rectangle::new(corners, BAR.filled()));
            let _ = area.draw(&Text::new(cut(&bar.label), (LABELS - 8, middle), text(HPos::Right)));
            let _ = area.draw(&Text::new(bar.told.clone(), (LABELS + length + 6, middle), text(HPos::Left)));
        }
    }
    svg
}

/// As much of a label as there is room for.
fn cut(label: &str) -> String {
    const MOST: usize = 25;
    if label.chars().count() <= MOST {
        return label.to_owned();
    }
    label.chars().take(MOST - 1).chain(['…']).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn labels_are_data_and_not_markup() {
        let bar = Bar { label: "<b>&\"it's\"</b>".into(), count: 3, told: "3 <i>".into() };
        let svg = bars(&[bar]);
        assert!(!svg.contains("<b>") && !svg.contains("<i>") && svg.contains("&lt;b&gt;&amp;"), "{svg}");
    }
}
