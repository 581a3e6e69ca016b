//! One cut over an iterator of texts: `cargo run -p keen-notch-core --example one_cut`.

use keen_notch_core::{Plan, PlanOptions, Scratch, parse_assignment};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let cut = parse_assignment(r#"serial = {lot} | part 4 of 5 by "-" | pad left 8 with "0""#)?;
    let plan = Plan::compile(&[cut], &["lot".to_owned()], &PlanOptions::default())?;
    let mut scratch = Scratch::default();
    for lot in ["GR-2026-TIL-43546-7", "FH-2019-BRA-417", ""] {
        let row = plan.evaluate([lot], &mut scratch);
        println!("{lot:20} {:?}", row.cells[0].text);
        for finding in row.findings {
            println!("{:20} {}: {}", "", finding.kind.name(), finding.reason);
        }
    }
    Ok(())
}
