//! The steps of the chosen row, as `notch trace` draws them.

use super::canvas::{Canvas, Look, lines};
use super::{Places, Scene};
use crate::show::visible;

pub fn draw(canvas: &mut Canvas<'_>, scene: &Scene<'_>, places: Places) {
    let (top, height) = places.below;
    if height == 0 {
        return;
    }
    let width = canvas.width();
    canvas.rule(top, 0, width, scene.place, false);
    if places.split > 0 {
        canvas.put((places.split, top), "┴", Look::Quiet, 1);
    }
    let lines = lines(scene.steps);
    // What the cell becomes stands last, and is worth more than the steps before it.
    let count = lines.len();
    for n in 0..count.min(height) {
        let is_cut_off = count > height;
        if is_cut_off && n + 2 == height {
            canvas.put((3, top + 1 + n), "…", Look::Quiet, 3);
            continue;
        }
        let line = if is_cut_off && n + 1 == height { &lines[count - 1] } else { &lines[n] };
        let mut x = 1;
        for (text, look) in line {
            x += canvas.put((x, top + 1 + n), text, *look, width - 1);
        }
    }
    let state = scene.state;
    let origin = || {
        let plan = state.plan()?;
        Some(plan.sources()[plan.origin(state.place()?)?].name.as_str())
    };
    if let (Some(column), Some(first)) = (origin(), lines.first()) {
        let begins: usize =
            first.iter().map(|(text, _)| text.len() - text.trim_start().len()).next().unwrap_or(0);
        if begins > 4 {
            canvas.put((3, top + 1), &visible(column), Look::Quiet, begins - 3);
        }
    }
}
