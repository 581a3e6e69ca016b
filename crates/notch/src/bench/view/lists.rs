//! The lists that lie over the rows: offers, everything that can be done, columns.

use keen_notch_core::word_at;

use super::canvas::{Canvas, Look};
use super::{Drawn, Places, Scene, Under};
use crate::bench::actions::narrowed;
use crate::bench::field::Field;
use crate::bench::offers::columns_like;
use crate::bench::state::Open;
use crate::show::visible;

/// A line of a list: what is taken, and what is said of it.
struct Item {
    what: String,
    said: String,
}

pub fn draw(canvas: &mut Canvas<'_>, drawn: &mut Drawn, scene: &Scene<'_>, places: Places) {
    let state = scene.state;
    let (title, typed, chosen, items): (&str, Option<&Field>, usize, Vec<Item>) = match &state.open
    {
        Open::Offers(chosen) => {
            let offers = state.offers();
            let item = |offer: &crate::bench::offers::Offer| {
                let word = if offer.is_cut { None } else { word_at(&offer.text, 0) };
                Item {
                    what: visible(&offer.text),
                    said: word
                        .map_or(String::new(), |word| format!("{}: {}", word.form, word.meaning)),
                }
            };
            let title = if state.cut().is_empty() {
                "proposals, and what may begin a cut"
            } else {
                "what may stand next"
            };
            (title, None, *chosen, offers.offers.iter().map(item).collect())
        }
        Open::Help(field, chosen) => {
            let item = |line: &&crate::bench::actions::ActionLine| Item {
                what: line.key.to_owned(),
                said: line.what.to_owned(),
            };
            let items = narrowed(field.text()).iter().map(item).collect();
            ("everything that can be done here", Some(field), *chosen, items)
        }
        Open::Columns { typed, chosen, begins_cut } => {
            let title =
                if *begins_cut { "Which column does the cut start from?" } else { "Which column?" };
            let item = |n: usize| Item {
                what: visible(&state.table.columns[n]),
                said: state
                    .glances
                    .as_ref()
                    .and_then(|all| all.get(n))
                    .cloned()
                    .unwrap_or_default(),
            };
            let items =
                columns_like(&state.table.columns, typed.text()).into_iter().map(item).collect();
            (title, Some(typed), *chosen, items)
        }
        _ => return,
    };
    let (top, width) = (places.rows.0 - 1, canvas.width());
    let bottom = canvas.height() - 2;
    for y in top..bottom {
        canvas.put((0, y), &" ".repeat(width), Look::Plain, width);
    }
    canvas.rule(top, 0, width, title, true);
    let mut first = top + 1;
    if let Some(field) = typed {
        let x = canvas.put((2, first), "type to narrow: ", Look::Quiet, width) + 2;
        let wide = canvas.put((x, first), &visible(field.text()), Look::Plain, width - x - 1);
        drawn.cursor = Some(((x + wide).min(width - 1) as u16, first as u16));
        if matches!(state.open, Open::Columns { .. }) && state.glances.is_none() {
            let said = "looking at the columns…";
            canvas.put_right((width - 1, first), said, Look::Quiet);
        }
        first += 1;
    }
    let height = bottom.saturating_sub(first);
    drawn.heights.2 = height;
    let from = chosen.saturating_sub(height.saturating_sub(1));
    let column = items.iter().map(|item| canvas.wide(&item.what)).max().unwrap_or(0);
    let has_said = items.iter().any(|item| !item.said.is_empty());
    let column = if has_said { column.min(width / 2) } else { width - 4 };
    for (n, item) in items.iter().enumerate().skip(from).take(height) {
        let y = first + n - from;
        let is_chosen = n == chosen;
        if is_chosen {
            canvas.put((1, y), "›", Look::Strong, 1);
        }
        let look = if is_chosen { Look::Strong } else { Look::Word };
        canvas.put((3, y), &item.what, look, column);
        let x = 3 + column + 2;
        canvas.put((x, y), &item.said, Look::Plain, width.saturating_sub(x + 1));
        drawn.area((0, y), width, Under::Item(n));
    }
    if items.is_empty() {
        canvas.put((3, first), "nothing here has these letters", Look::Quiet, width);
    }
}
