//! A column as JSON.

use keen_notch_core::{Distinct, FirstRow, Glance, Layout, Position};
use keen_notch_table::Whereabouts;
use serde_json::{Value, json};

use super::super::places::at;
use super::column::Surveyed;

/// A column as JSON, documented in docs/json.md.
pub fn survey_json(column: &Surveyed, places: &Whereabouts) -> Value {
    let Surveyed { name, survey, proposals, troubles, layouts, .. } = column;
    let (shapes, more_shapes) = survey.shapes();
    let (distinct, exact) = distinct(survey.distinct());
    let first = |first: &FirstRow| {
        at(places, "line", first.line, json!({ "row": first.row, "text": first.text }))
    };
    let positions = |positions: &[Position]| -> Vec<Value> {
        positions
            .iter()
            .map(|position| json!({ "texts": position.texts(), "letter": position.letter() }))
            .collect()
    };
    let repeated = survey.repeated().unwrap_or_default();
    let each_shape = |shapes: &[(&str, u64, &FirstRow)]| -> Vec<Value> {
        let shape = |(shape, texts, row): &(&str, u64, &FirstRow)| json!({ "shape": shape, "texts": texts, "first": first(row) });
        shapes.iter().map(shape).collect()
    };
    let each_layout = |layout: &Layout| {
        let slots = layout.slots(&layout.first.text).unwrap_or_default();
        let slots: Vec<&str> = slots.into_iter().map(|slot| &layout.first.text[slot]).collect();
        json!({
            "layout": layout.pattern,
            "ignoring_case": layout.ignoring_case,
            "texts": layout.texts,
            "first": first(&layout.first),
            "slots": slots,
        })
    };
    let cuts = proposals.iter().zip(survey.rests(proposals)).map(|(proposal, rest)| {
        json!({
            "names": proposal.names,
            "cut": proposal.cut_of(&column.source()),
            "fits": proposal.fits,
            "rest": each_shape(&rest),
        })
    });
    let lengths = survey.lengths();
    let lengths = lengths.iter().map(|(length, texts)| json!({ "length": length, "texts": texts }));
    let repeated = repeated
        .iter()
        .take(100)
        .map(|(text, rows, row)| json!({ "text": text, "rows": rows, "first_row": row }));
    let troubles = troubles.iter().map(|trouble| {
        json!({ "what": trouble.what, "texts": trouble.texts, "first": first(&trouble.first) })
    });
    json!({
        "name": name,
        "rows": survey.rows,
        "blank": survey.blank,
        "distinct": distinct,
        "distinct_is_exact": exact,
        "looks_like": survey.looks_like(&column.layouts),
        "lengths": lengths.collect::<Vec<_>>(),
        "layouts": layouts.layouts.iter().map(each_layout).collect::<Vec<_>>(),
        "odd": layouts.odd.iter().map(first).collect::<Vec<_>>(),
        "odd_texts": layouts.odd_texts,
        "labels": layouts.labels.iter().map(|label| json!({
            "label": label.label,
            "texts": label.texts,
            "followed_by": label.followed_by,
            "first": first(&label.first),
        })).collect::<Vec<_>>(),
        "shapes": each_shape(&shapes),
        "more_shapes": more_shapes,
        "repeated": repeated.collect::<Vec<_>>(),
        "placed": survey.placed(),
        "from_left": positions(&survey.left),
        "from_right": positions(&survey.right),
        "troubles": troubles.collect::<Vec<_>>(),
        "cuts": cuts.collect::<Vec<_>>(),
        "tried": column.tried,
    })
}

/// What a column of a table in parts is at a glance as JSON, documented in docs/json.md.
pub fn glance_json(name: &str, seen: &Glance) -> Value {
    let (distinct, exact) = distinct(seen.distinct);
    let shape = seen.shape.as_ref();
    json!({
        "name": name,
        "rows": seen.rows,
        "blank": seen.blank,
        "distinct": distinct,
        "distinct_is_exact": exact,
        "looks_like": seen.looks_like,
        "looked_at": seen.looked_at,
        "shortest": seen.lengths.map(|(least, _)| least),
        "longest": seen.lengths.map(|(_, most)| most),
        "shape": shape.map(|shape| json!({ "shape": shape.shape, "texts": shape.count })),
    })
}

/// A number of different texts, and whether it is exact.
fn distinct(of: Distinct) -> (u64, bool) {
    match of {
        Distinct::Exactly(n) => (n, true),
        Distinct::About(n) => (n, false),
    }
}
