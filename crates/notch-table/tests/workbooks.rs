//! Workbooks with the traps that real ones have: read as a person sees them, written so that
//! nothing is lost.
#![cfg(feature = "workbooks")]
#![allow(clippy::unwrap_used, reason = "a test that fails says so by panicking")]

use std::io::{Cursor, Write};
use std::path::Path;

use calamine::{Data, Reader, Xlsx, open_workbook};
use keen_notch_core::{Plan, PlanOptions, parse_assignment};
use keen_notch_table::{
    Carving, NewFile, OutColumn, ReadOptions, RowSink, RowsOut, Source, Summary, Table, TableError,
    book_rows, carve,
};
use rust_xlsxwriter::{ExcelDateTime, Format, Formula, Workbook};
use tempfile::TempDir;
use zip::write::SimpleFileOptions;

/// Carves a table into a file, all old columns first; rows that cannot be read and findings are
/// listed beside it.
fn run(
    folder: &TempDir,
    table: &str,
    cuts: &[&str],
    options: &ReadOptions,
    out: &str,
) -> Result<Summary, TableError> {
    let table = Table::open(&Source::File(folder.path().join(table)), options)?;
    let cuts: Vec<_> = cuts.iter().map(|cut| parse_assignment(cut).unwrap()).collect();
    let plan = Plan::compile(&cuts, table.columns(), &PlanOptions::default()).unwrap();
    let columns = (0..table.columns().len())
        .map(OutColumn::Source)
        .chain((0..plan.outputs().len()).map(OutColumn::New))
        .collect();
    let path = folder.path().join(out);
    let (findings, rejects) =
        (Some(folder.path().join("findings.csv")), Some(folder.path().join("rejects.csv")));
    let carving = Carving { findings, rejects, ..Carving::new(&plan, columns) };
    let sink: Box<dyn RowSink> = match out.ends_with(".xlsx") {
        true => book_rows(&path)?,
        false => Box::new(RowsOut::new(NewFile::create(&path)?)),
    };
    carve(table, &carving, sink)
}

fn text(folder: &TempDir, name: &str) -> String {
    std::fs::read_to_string(folder.path().join(name)).unwrap()
}

/// A book with titles above the header, codes shown by number formats, dates, errors and another
/// sheet.
fn tricky(path: &Path) {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet().set_name("Keepers").unwrap();
    sheet.write(0, 0, "Keepers of Fernhollow").unwrap();
    let format = |code: &str| Format::new().set_num_format(code);
    for (column, name) in
        (1..).zip(["code", "berth", "n", "day", "at", "took", "on", "sum", "note"])
    {
        sheet.write(3, column, name).unwrap();
    }
    sheet.write_with_format(4, 1, 417, &format("00000")).unwrap();
    sheet.write_with_format(4, 2, 12345, &format("000-00")).unwrap();
    sheet.write(4, 3, 20160).unwrap();
    let day = ExcelDateTime::parse_from_str("2031-05-12").unwrap();
    sheet.write_with_format(4, 4, &day, &format("dd.mm.yyyy")).unwrap();
    let at = ExcelDateTime::parse_from_str("2031-05-12T14:30:00").unwrap();
    sheet.write_with_format(4, 5, &at, &format("dd.mm.yyyy hh:mm")).unwrap();
    sheet.write_with_format(4, 6, 1.104_166_666_666_666_7, &format("[h]:mm:ss")).unwrap();
    sheet.write(4, 7, true).unwrap();
    sheet.write(4, 8, Formula::new("=40+2").set_result("42")).unwrap();
    sheet.write(4, 9, "00417, \"é\"\nsecond line").unwrap();
    // A gap, then a number of sixteen digits, a shown fraction and text that looks like a number.
    sheet.write(6, 1, "00012").unwrap();
    sheet.write(6, 3, 0.1).unwrap();
    sheet.write(6, 8, 1.23e15).unwrap();
    sheet.write(7, 1, "9").unwrap();
    sheet.write(7, 8, Formula::new("=1/0").set_result("#DIV/0!")).unwrap();
    let other = book.add_worksheet().set_name("Old").unwrap();
    other.write(0, 0, "a").unwrap();
    book.add_worksheet().set_name("Blank").unwrap();
    book.save(path).unwrap();
}

const SEEN: &str = "code,berth,n,day,at,took,on,sum,note,c\n\
                    00417,123-45,20160,2031-05-12,2031-05-12T14:30:00,26:30:00,TRUE,42,\"00417, \"\"é\"\"\nsecond line\",00\n\
                    00012,,0.1,,,,,1230000000000000,,00\n";

#[test]
fn a_workbook_is_read_as_a_person_sees_it() {
    let folder = TempDir::new().unwrap();
    tricky(&folder.path().join("t.xlsx"));
    let done =
        run(&folder, "t.xlsx", &["c = {code} | first 2"], &ReadOptions::default(), "out.csv")
            .unwrap();
    assert_eq!(text(&folder, "out.csv"), SEEN);
    assert_eq!((done.read, done.written, done.rejected, done.empty_lines), (3, 2, 1, 1));
    assert_eq!(
        text(&folder, "findings.csv").lines().nth(1).unwrap(),
        "3,8,,,row,the cell of sum holds the error #DIV/0!,,,"
    );
    let table =
        Table::open(&Source::File(folder.path().join("t.xlsx")), &ReadOptions::default()).unwrap();
    assert_eq!(table.other_sheets(), ["Old"]);
    assert_eq!(
        table.notices(),
        [
            "The sheet Keepers was taken; there are also Old. Take another with --sheet NAME, or all with --sheet '*'.",
            "Row 4 was taken for the header; take another with --header-row N."
        ]
    );
    let first = ReadOptions { header_row: Some(5), ..ReadOptions::default() };
    assert_eq!(
        Table::open(&Source::File(folder.path().join("t.xlsx")), &first).unwrap().columns()[..3],
        ["00417", "123-45", "20160"]
    );
}

/// A workbook as an office suite writes it, with repeated cells, comments, covered cells and
/// numbers shown as codes.
const ODS: &str = r#"<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x" xmlns:calcext="c"><office:body><office:spreadsheet>
<table:table table:name="One"><table:table-row><table:table-cell office:value-type="string"><text:p>code</text:p></table:table-cell>
<table:table-cell office:value-type="string"><text:p>n &amp; m</text:p></table:table-cell><table:table-cell office:value-type="string"><text:p>on</text:p></table:table-cell></table:table-row>
<table:table-row><table:table-cell office:value-type="float" office:value="417"><office:annotation><text:p>a comment</text:p></office:annotation><text:p>00417</text:p></table:table-cell>
<table:table-cell table:number-columns-repeated="2" office:value-type="float" office:value="1234.5"><text:p>1,234.50</text:p></table:table-cell></table:table-row>
<table:table-row table:number-rows-repeated="2"><table:table-cell office:value-type="string"><text:p>a<text:s text:c="2"/>b<text:line-break/>c</text:p><text:p>d&#233;</text:p></table:table-cell>
<table:covered-table-cell/><table:table-cell office:value-type="date" office:date-value="2031-05-12"><text:p>12.05.31</text:p></table:table-cell></table:table-row>
<table:table-row><table:table-cell office:value-type="time" office:time-value="PT14H30M00S"><text:p>2:30 PM</text:p></table:table-cell>
<table:table-cell office:value-type="boolean" office:boolean-value="true"><text:p>WAHR</text:p></table:table-cell>
<table:table-cell office:value-type="string" calcext:value-type="error"><text:p>#N/A</text:p></table:table-cell></table:table-row>
<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table>
<table:table table:name="Two"><table:table-row><table:table-cell office:value-type="string"><text:p>x</text:p></table:table-cell></table:table-row></table:table>
</office:spreadsheet></office:body></office:document-content>"#;

fn zipped(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in parts {
        zip.start_file(*name, SimpleFileOptions::default()).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

#[test]
fn an_open_document_is_read_with_the_text_it_shows() {
    let folder = TempDir::new().unwrap();
    std::fs::write(folder.path().join("t.ods"), zipped(&[("content.xml", ODS.as_bytes())]))
        .unwrap();
    run(&folder, "t.ods", &["c = {code} | first 2"], &ReadOptions::default(), "out.csv").unwrap();
    let row = "\"a  b\nc\ndé\",,2031-05-12,a \n";
    assert_eq!(
        text(&folder, "out.csv"),
        format!("code,n & m,on,c\n00417,1234.5,1234.5,00\n{row}{row}")
    );
    assert_eq!(text(&folder, "rejects.csv"), "code,n & m,on\n14:30:00,TRUE,#N/A\n");
}

#[test]
fn what_is_written_keeps_types_zeros_and_texts() {
    let folder = TempDir::new().unwrap();
    tricky(&folder.path().join("t.xlsx"));
    let long = "x".repeat(40_000);
    let csv =
        format!("code,n\n00417,1.50\n00012,12345678901234567\n=1+1,-3\n\"a\nb\",\n{long},5\n");
    std::fs::write(folder.path().join("t.csv"), csv).unwrap();
    let cuts = [
        "c = {code} | check not has \"a\"",
        "m = {n} | as number",
        "d = \"2031-05-12\" | as date",
        "e = {n} | as decimal 2",
    ];
    let done = run(&folder, "t.csv", &cuts, &ReadOptions::default(), "out.xlsx").unwrap();
    let long_ones = |name: &str| {
        format!(
            "Numbers of {name} with more than 15 digits were written as text, so that none is lost: 1."
        )
    };
    assert_eq!(done.said, [long_ones("m"), long_ones("e")]);
    let mut book: Xlsx<_> = open_workbook(folder.path().join("out.xlsx")).unwrap();
    assert_eq!(book.sheet_names(), ["Rows", "Findings"]);
    let rows = book.worksheet_range("Rows").unwrap();
    let cell = |row, column| rows.get((row, column)).unwrap().clone();
    let text_of = |value: &str| Data::String(value.to_owned());
    assert_eq!(
        (cell(1, 0), cell(1, 1), cell(1, 2), cell(1, 3)),
        (text_of("00417"), text_of("1.50"), text_of("00417"), Data::Float(1.5))
    );
    assert!(
        matches!(cell(1, 4), Data::DateTime(day) if day.as_f64() == 47_980.0),
        "{:?}",
        cell(1, 4)
    );
    assert_eq!(
        (cell(2, 3), cell(3, 0), cell(3, 3)),
        (text_of("12345678901234567"), text_of("=1+1"), Data::Float(-3.0))
    );
    // Texts that no cell holds are findings, in the column and in what is cut from it.
    let findings = text(&folder, "findings.csv");
    let over: Vec<&str> = findings
        .lines()
        .filter(|line| line.contains(",over,"))
        .map(|line| line.split(",over,").next().unwrap())
        .collect();
    assert_eq!(over, ["5,7,code,", "5,7,code,c"]);
    assert!(findings.contains("40000 characters, of which a cell of a workbook holds 32767"));

    // From workbook to workbook the cells stay what they are.
    run(&folder, "t.xlsx", &["c = {code} | first 2"], &ReadOptions::default(), "again.xlsx")
        .unwrap();
    run(&folder, "again.xlsx", &[], &ReadOptions::default(), "again.csv").unwrap();
    assert_eq!(text(&folder, "again.csv"), SEEN);
    let mut book: Xlsx<_> = open_workbook(folder.path().join("again.xlsx")).unwrap();
    let rows = book.worksheet_range("Rows").unwrap();
    assert_eq!(rows.get((1, 2)), Some(&Data::Float(20_160.0)));
    assert!(matches!(rows.get((1, 4)), Some(Data::DateTime(_))));
    assert_eq!(rows.get((1, 6)), Some(&Data::Bool(true)));
}

#[test]
fn workbooks_that_cannot_be_used() {
    let folder = TempDir::new().unwrap();
    tricky(&folder.path().join("t.xlsx"));
    let whole = std::fs::read(folder.path().join("t.xlsx")).unwrap();
    let old = b"\xD0\xCF\x11\xE0".to_vec();
    let password: Vec<u8> = old
        .iter()
        .copied()
        .chain("EncryptedPackage".encode_utf16().flat_map(u16::to_le_bytes))
        .collect();
    let plain = ReadOptions::default;
    let sheet = |name: &str| ReadOptions { sheets: vec![name.to_owned()], ..plain() };
    for (name, bytes, options, said) in [
        ("a.xlsx", &password, plain(), "is a workbook with a password."),
        ("b.xls", &old, plain(), "is a workbook in the old format (XLS)."),
        ("c.xlsx", &whole[..whole.len() / 2].to_vec(), plain(), "cannot be read: "),
        ("d.xlsx", &b"a,b\n1,2\n".to_vec(), plain(), "is called a workbook and is none."),
        ("e.csv", &whole, plain(), "is called a text table and is a workbook."),
        ("f.xlsx", &zipped(&[("a.txt", b"x")]), plain(), "is a zip archive and no workbook."),
        (
            "g.xlsx",
            &whole,
            sheet("Nope"),
            "has no sheet Nope. Its sheets are: Keepers, Old, Blank.",
        ),
        ("h.xlsx", &whole, sheet("Blank"), "has nothing in the sheet Blank."),
        (
            "i.xlsx",
            &whole,
            ReadOptions { unpack_limit: Some(1_000_000 / 1000), ..plain() },
            "unpacks to more than",
        ),
        (
            "j.ods",
            &zipped(&[("content.xml", b""), ("META-INF/manifest.xml", b"<m:encryption-data/>")]),
            plain(),
            "is a workbook with a password.",
        ),
        ("k.csv", &b"a\n1\n".to_vec(), sheet("x"), "is no workbook, so it has no sheets."),
        (
            "l.xlsx",
            &whole,
            sheet("K*s?"),
            "has no visible sheet with something in it whose name fits K*s?.",
        ),
        (
            "m.xlsx",
            &whole,
            sheet("*"),
            "has other columns in the sheet Old than in Keepers: it lacks code, ",
        ),
        (
            "n.csv",
            &b"a\n1\n".to_vec(),
            ReadOptions { sheet_column: Some("x".to_owned()), ..plain() },
            "is no workbook",
        ),
    ] {
        std::fs::write(folder.path().join(name), bytes).unwrap();
        let error = run(&folder, name, &[], &options, "out.csv").unwrap_err();
        assert!(error.to_string().contains(said), "{name}: {error}");
        assert!(!folder.path().join("out.csv").exists());
    }
}

/// A sheet of an ODS workbook, of rows of texts.
fn ods_sheet(name: &str, rows: &[&[&str]]) -> String {
    let cell = |text: &&str| match *text {
        "" => "<table:table-cell/>".to_owned(),
        text => format!(
            "<table:table-cell office:value-type=\"string\"><text:p>{text}</text:p></table:table-cell>"
        ),
    };
    let row = |cells: &&[&str]| {
        format!("<table:table-row>{}</table:table-row>", cells.iter().map(cell).collect::<String>())
    };
    format!(
        "<table:table table:name=\"{name}\">{}</table:table>",
        rows.iter().map(row).collect::<String>()
    )
}

/// Both formats, with columns in another order, titles, blank rows, rows that are too long and
/// cells that are no text.
#[test]
fn several_sheets_are_one_table() {
    type Rows<'r> = &'r [&'r [&'r str]];
    let north: Rows = &[&["lot", "qty"], &["GR-1", "5"], &["GR-2", "7"]];
    let south: Rows =
        &[&["Of the south"], &[""], &["qty", " lot"], &["3", "HV-1"], &[""], &["4", "XX"]];
    let west: Rows = &[&["lot", "qty"], &["WE-1", "9"]];
    let notes: Rows = &[&["note"], &["nothing"]];
    let sheets = [
        ("North", north),
        ("South", south),
        ("Notes", notes),
        ("Blank", &[] as Rows),
        ("West", west),
    ];
    let folder = TempDir::new().unwrap();
    let all: String = sheets.iter().map(|(name, rows)| ods_sheet(name, rows)).collect();
    let (begin, _) = ODS.split_once("<table:table ").unwrap();
    let content =
        format!("{begin}{all}</office:spreadsheet></office:body></office:document-content>");
    std::fs::write(folder.path().join("t.ods"), zipped(&[("content.xml", content.as_bytes())]))
        .unwrap();
    let mut book = Workbook::new();
    for (name, rows) in sheets {
        let sheet = book.add_worksheet().set_name(name).unwrap();
        sheet.set_hidden(name == "West");
        for (row, cells) in rows.iter().enumerate() {
            for (column, text) in cells.iter().enumerate().filter(|(_, text)| !text.is_empty()) {
                match text.parse::<f64>() {
                    Ok(number) => sheet.write(row as u32, column as u16, number).unwrap(),
                    Err(_) => sheet.write(row as u32, column as u16, *text).unwrap(),
                };
            }
        }
    }
    book.save(folder.path().join("t.xlsx")).unwrap();

    let (north, south) = ("GR-1,5,North,1\nGR-2,7,North,2\n", "HV-1,3,South,1\nXX,4,South,\n");
    // The columns stand as in the first sheet.
    let (north_of_south, south_alone) =
        ("5,GR-1,North,1\n7,GR-2,North,2\n", "3,HV-1,South,1\n4,XX,South,\n");
    for (table, asked, header, rows) in [
        ("t.xlsx", &["North", "South"][..], "lot,qty", [north, south].concat()),
        ("t.ods", &["North", "South"], "lot,qty", [north, south].concat()),
        ("t.xlsx", &["*th", "North"], "lot,qty", [north, south].concat()),
        ("t.ods", &["S*"], "qty,lot", south_alone.to_owned()),
        ("t.xlsx", &["South", "N?rth"], "qty,lot", [south_alone, north_of_south].concat()),
        ("t.ods", &["W*", "North"], "lot,qty", ["WE-1,9,West,1\n", north].concat()),
        // A hidden sheet is read where it is named, and no pattern stands for it.
        ("t.xlsx", &["West"], "lot,qty", "WE-1,9,West,1\n".to_owned()),
    ] {
        let sheets = asked.iter().map(|name| (*name).to_owned()).collect();
        let options =
            ReadOptions { sheets, sheet_column: Some("site".to_owned()), ..ReadOptions::default() };
        run(&folder, table, &["n = {lot} | part 2 by \"-\""], &options, "out.csv").unwrap();
        let written = text(&folder, "out.csv").replacen(" lot", "lot", 1);
        assert_eq!(written, format!("{header},site,n\n{rows}"), "{table} {asked:?}");
    }
    let both = ReadOptions {
        sheets: vec!["North".to_owned(), "South".to_owned()],
        ..ReadOptions::default()
    };
    let done = run(&folder, "t.xlsx", &["n = {lot} | part 2 by \"-\""], &both, "out.xlsx").unwrap();
    assert_eq!((done.read, done.written, done.empty_lines), (4, 4, 1));
    assert_eq!(
        text(&folder, "findings.csv").lines().nth(1).unwrap(),
        format!(
            "4,6,lot,n,missing,1 part,XX,,\"{}, sheet South\",",
            folder.path().join("t.xlsx").display()
        )
    );
    // Numbers stay numbers.
    let mut book: Xlsx<_> = open_workbook(folder.path().join("out.xlsx")).unwrap();
    assert_eq!(book.worksheet_range("Rows").unwrap().get((3, 1)), Some(&Data::Float(3.0)));
    // Sheets of several workbooks.
    std::fs::copy(folder.path().join("t.xlsx"), folder.path().join("t2.xlsx")).unwrap();
    let files = ["t.xlsx", "t2.xlsx"].map(|name| folder.path().join(name)).to_vec();
    let table = Table::open(
        &Source::Many { name: "t*".to_owned(), files },
        &ReadOptions { file_column: Some("from".to_owned()), ..both.clone() },
    )
    .unwrap();
    assert_eq!(table.columns(), ["lot", "qty", "from"]);
    let taken = ReadOptions { sheet_column: Some("qty".to_owned()), ..both };
    let error = run(&folder, "t.xlsx", &[], &taken, "out.csv").unwrap_err();
    assert!(error.to_string().contains("has a column qty already."), "{error}");
}

/// An archive is recognised by its content, whatever it is called; what some programs add to it is
/// passed over.
#[test]
fn archives_are_read_as_the_table_in_them() {
    let (lots, keepers) = ("lot,n\nFH-1,2\n", "keeper\nMoran\n");
    let added: [(&str, &[u8]); 3] = [
        ("__MACOSX/._lots.csv", b"\0\x05"),
        ("data/.DS_Store", b"\0"),
        ("data/lots.csv", lots.as_bytes()),
    ];
    let two: [(&str, &[u8]); 2] =
        [("lots.csv", lots.as_bytes()), ("keepers.csv", keepers.as_bytes())];
    let packed = zipped(&two);
    let nested = zipped(&[("inner.zip", &zipped(&added[2..]))]);
    let within = |archives: usize| {
        (0..archives).fold(zipped(&added[2..]), |inner, _| zipped(&[("inner.zip", &inner)]))
    };
    let folder = TempDir::new().unwrap();
    for (name, bytes, wanted) in [
        ("seven.zip", within(7), Ok("lot,n,x\nFH-1,2,FH\n")),
        ("eight.zip", within(8), Err("is an archive within 8 others.")),
        ("one.zip", zipped(&added[2..]), Ok("lot,n,x\nFH-1,2,FH\n")),
        ("one.csv", zipped(&added[2..]), Ok("lot,n,x\nFH-1,2,FH\n")),
        ("mac.zip", zipped(&added), Ok("lot,n,x\nFH-1,2,FH\n")),
        ("nested.zip", nested, Ok("lot,n,x\nFH-1,2,FH\n")),
        ("empty.zip", zipped(&[]), Err("is an archive with nothing in it.")),
        ("mac-alone.zip", zipped(&added[..2]), Err("is an archive with no file in it.")),
        ("two.zip", packed, Err("is an archive of 2 files: lots.csv, keepers.csv.")),
    ] {
        std::fs::write(folder.path().join(name), bytes).unwrap();
        let said = run(&folder, name, &["x = {lot} | first 2"], &ReadOptions::default(), "out.csv");
        match wanted {
            Ok(wanted) => {
                said.unwrap();
                assert_eq!(text(&folder, "out.csv"), wanted, "{name}");
                std::fs::remove_file(folder.path().join("out.csv")).unwrap();
            }
            Err(wanted) => assert!(
                said.as_ref().is_err_and(|error| error.to_string().contains(wanted)),
                "{name}: {said:?}"
            ),
        }
    }
    for (name, cut, wanted) in [
        ("two.zip/lots.csv", "x = {lot} | first 2", "lot,n,x\nFH-1,2,FH\n"),
        ("two.zip/keepers.csv", "x = {keeper} | first 1", "keeper,x\nMoran,M\n"),
    ] {
        run(&folder, name, &[cut], &ReadOptions::default(), "out.csv").unwrap();
        assert_eq!(text(&folder, "out.csv"), wanted);
    }
    // It is the archive that must not be written over.
    assert_eq!(
        Source::File(folder.path().join("two.zip/lots.csv")).files(),
        [folder.path().join("two.zip")]
    );
    let least = ReadOptions { unpack_limit: Some(5), ..ReadOptions::default() };
    for name in ["two.zip/lots.csv", "one.zip"] {
        let error = run(&folder, name, &[], &least, "out.csv").unwrap_err();
        assert!(error.to_string().contains("raise the limit"), "{name}: {error}");
    }
    let error =
        run(&folder, "two.zip/lot.csv", &[], &ReadOptions::default(), "out.csv").unwrap_err();
    assert!(error.to_string().contains("lots.csv, keepers.csv"), "{error}");
}
