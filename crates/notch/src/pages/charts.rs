//! Charts of pages, as SVG in the page. Their colours come from its style, so that they follow the
//! light and the dark scheme; what they draw stands beside them as text.

use maud::{Markup, PreEscaped, html};
use plotters::chart::ChartBuilder;
use plotters::coord::Shift;
use plotters::coord::ranged1d::IntoSegmentedCoord;
use plotters::drawing::{DrawingArea, DrawingAreaErrorKind, IntoDrawingArea};
use plotters::prelude::{BLACK, Color, Histogram, SVGBackend};
use plotters::series::LineSeries;

/// The size of a histogram and of a small line, in the units of their drawing.
const HISTOGRAM: (u32, u32) = (640, 180);
const LINE: (u32, u32) = (160, 28);

/// What went wrong in a drawing that is kept in memory: nothing can.
type NotDrawn<'t> =
    DrawingAreaErrorKind<<SVGBackend<'t> as plotters::prelude::DrawingBackend>::ErrorType>;
type Area<'t> = DrawingArea<SVGBackend<'t>, Shift>;

/// A drawing that says `said` to who does not see it; nothing where it cannot be made.
fn drawn(
    class: &str,
    size: (u32, u32),
    said: &str,
    draw: impl FnOnce(&Area<'_>) -> Result<(), NotDrawn<'static>>,
) -> Markup {
    let mut text = String::new();
    {
        let area = SVGBackend::with_string(&mut text, size).into_drawing_area();
        if draw(&area).is_err() || area.present().is_err() {
            return html! {};
        }
    }
    html! { div class=(class) role="img" aria-label=(said) { (PreEscaped(text)) } }
}

/// How many texts have each length; `counts` are lengths in characters with the number of texts.
pub fn lengths(counts: &[(u32, u32)]) -> Markup {
    let (Some(least), Some(most)) = (
        counts.iter().map(|(length, _)| *length).min(),
        counts.iter().map(|(length, _)| *length).max(),
    ) else {
        return html! {};
    };
    let highest = counts.iter().map(|(_, texts)| *texts).max().unwrap_or(1);
    let said = format!(
        "Histogram of lengths from {least} to {most} characters; the table below has the figures."
    );
    drawn("chart", HISTOGRAM, &said, |area| {
        let mut chart = ChartBuilder::on(area)
            .margin(6)
            .x_label_area_size(26)
            .y_label_area_size(52)
            .build_cartesian_2d((least..most).into_segmented(), 0..highest + highest / 10 + 1)?;
        chart.configure_mesh().disable_x_mesh().y_labels(4).x_labels(12).draw()?;
        chart.draw_series(
            Histogram::vertical(&chart)
                .style(BLACK.filled())
                .margin(1)
                .data(counts.iter().copied()),
        )?;
        Ok(())
    })
}

/// Figures one after the other as a small line.
pub fn small_line(counts: &[u64]) -> Markup {
    let most = counts.iter().copied().max().unwrap_or(0).max(1) as f64;
    let last = (counts.len().max(2) - 1) as f64;
    drawn("line", LINE, "a line of the figures beside it", |area| {
        let mut chart =
            ChartBuilder::on(area).margin(2).build_cartesian_2d(0.0..last, 0.0..most)?;
        let points = counts.iter().enumerate().map(|(n, count)| (n as f64, *count as f64));
        chart.draw_series(LineSeries::new(points, BLACK.stroke_width(2)))?;
        Ok(())
    })
}
