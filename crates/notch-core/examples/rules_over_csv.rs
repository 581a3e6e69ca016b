//! What a jig says (a list, a demand on a column, cuts and a check of rows) over records of the csv
//! crate: `cargo run -p keen-notch-core --example rules_over_csv`.

use std::sync::Arc;

use keen_notch_core::{
    ColumnRule, List, Plan, PlanOptions, Scratch, Tally, parse_assignment, parse_column_rule,
    parse_row_rule,
};

const TABLE: &str = "\
lot,seeds
GR-2026-TIL,421
ML-2026-ROS,0
XX-2026-BRA,12
";

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut houses = List::default();
    ["FH", "GR", "ML"].iter().for_each(|house| houses.add_value(house));
    let options = PlanOptions {
        lists: [("houses".to_owned(), Arc::new(houses))].into_iter().collect(),
        columns: vec![ColumnRule {
            column: "lot".to_owned(),
            required: true,
            check: Some(parse_column_rule(r#"has exactly 2 "-""#)?),
            ..ColumnRule::default()
        }],
        checks: vec![("no empty lots".to_owned(), parse_row_rule("{seeds} value > 0")?)],
        ..PlanOptions::default()
    };
    let cuts = [
        parse_assignment(r#"house = {lot} | before "-" | check is in houses"#)?,
        parse_assignment(r#"genus = {lot} | part last by "-""#)?,
    ];
    let mut table = csv::Reader::from_reader(TABLE.as_bytes());
    let columns: Vec<String> = table.headers()?.iter().map(str::to_owned).collect();
    let plan = Plan::compile(&cuts, &columns, &options)?;
    let (mut scratch, mut tally) = (Scratch::default(), Tally::new(&plan));
    for (row, record) in (1..).zip(table.records()) {
        let record = record?;
        // A plan asks for the cells of the columns it starts from, in its own order.
        let cells = plan.sources().iter().map(|source| &record[source.index]);
        let result = plan.evaluate(cells, &mut scratch);
        tally.add(&plan, &result, row, row + 1);
        let made: Vec<&str> = result.cells.iter().map(|cell| cell.text).collect();
        let findings: Vec<String> = result
            .findings
            .iter()
            .map(|finding| format!("{}: {}", plan.called(finding.about), finding.reason))
            .collect();
        println!("{made:?} {findings:?}");
    }
    for (about, kind, group) in tally.groups() {
        println!("{} rows: {} {}", group.rows.count(), plan.called(about), kind.name());
    }
    Ok(())
}
