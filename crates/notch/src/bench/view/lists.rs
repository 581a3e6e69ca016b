//! The lists that lie over the rows: offers, everything that can be done, columns.

use keen_notch_core::word_at;

use super::canvas::{Canvas, Look};
use super::{Drawn, Places, Scene, Under};
use crate::bench::actions::{ActionLine, narrowed};
use crate::bench::field::Field;
use crate::bench::offers::{Offer, columns_like};
use crate::bench::state::{Open, State};
use crate::show::visible;

/// A list that lies over the rows.
struct List<'s> {
    title: &'s str,
    /// What is typed to narrow it.
    typed: Option<&'s Field>,
    /// The number of the item chosen, from 0.
    chosen: usize,
    items: Vec<Item>,
}

/// A line of a list: what is taken, and what is said of it.
struct Item {
    what: String,
    said: String,
}

impl<'s> List<'s> {
    /// The list that is open; `None` where something else is.
    fn open(state: &'s State) -> Option<Self> {
        match &state.open {
            Open::Offers(chosen) => Some(Self::of_offers(state, *chosen)),
            Open::Help(field, chosen) => {
                let item = |line: &&ActionLine| Item {
                    what: line.key.to_owned(),
                    said: line.what.to_owned(),
                };
                Some(List {
                    title: "everything that can be done here",
                    typed: Some(field),
                    chosen: *chosen,
                    items: narrowed(field.text()).iter().map(item).collect(),
                })
            }
            Open::Columns { typed, chosen, begins_cut } => {
                let glance = |n: usize| state.glances.as_ref().and_then(|all| all.get(n)).cloned();
                let item = |n: usize| Item {
                    what: visible(&state.table.columns[n]),
                    said: glance(n).unwrap_or_default(),
                };
                Some(List {
                    title: match begins_cut {
                        true => "Which column does the cut start from?",
                        false => "Which column?",
                    },
                    typed: Some(typed),
                    chosen: *chosen,
                    items: columns_like(&state.table.columns, typed.text())
                        .into_iter()
                        .map(item)
                        .collect(),
                })
            }
            _ => None,
        }
    }

    fn of_offers(state: &State, chosen: usize) -> Self {
        let item = |offer: &Offer| {
            let word = if offer.is_cut { None } else { word_at(&offer.text, 0) };
            let said = word.map(|word| format!("{}: {}", word.form, word.meaning));
            Item { what: visible(&offer.text), said: said.unwrap_or_default() }
        };
        List {
            title: match state.cut().is_empty() {
                true => "proposals, and what may begin a cut",
                false => "what may stand next",
            },
            typed: None,
            chosen,
            items: state.offers().offers.iter().map(item).collect(),
        }
    }
}

pub fn draw(canvas: &mut Canvas<'_>, drawn: &mut Drawn, scene: &Scene<'_>, places: Places) {
    let state = scene.state;
    let Some(list) = List::open(state) else { return };
    let (top, width) = (places.rows.0 - 1, canvas.width());
    let bottom = canvas.height() - 2;
    for y in top..bottom {
        canvas.put((0, y), &" ".repeat(width), Look::Plain, width);
    }
    canvas.rule(top, 0, width, list.title, true);
    let mut first = top + 1;
    if let Some(field) = list.typed {
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
    let from = list.chosen.saturating_sub(height.saturating_sub(1));
    let column = list.items.iter().map(|item| canvas.wide(&item.what)).max().unwrap_or(0);
    let has_said = list.items.iter().any(|item| !item.said.is_empty());
    let column = if has_said { column.min(width / 2) } else { width - 4 };
    for (n, item) in list.items.iter().enumerate().skip(from).take(height) {
        let y = first + n - from;
        let is_chosen = n == list.chosen;
        if is_chosen {
            canvas.put((1, y), "›", Look::Strong, 1);
        }
        let look = if is_chosen { Look::Strong } else { Look::Word };
        canvas.put((3, y), &item.what, look, column);
        let x = 3 + column + 2;
        canvas.put((x, y), &item.said, Look::Plain, width.saturating_sub(x + 1));
        drawn.area((0, y), width, Under::Item(n));
    }
    if list.items.is_empty() {
        canvas.put((3, first), "nothing here has these letters", Look::Quiet, width);
    }
}
