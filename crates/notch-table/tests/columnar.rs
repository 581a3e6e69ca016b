//! Typed columns in and out, and what is made of texts.
#![cfg(feature = "parquet")]
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that fails says so by panicking")]

use std::fs::File;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::types::{Decimal128Type, Int8Type, Int32Type};
use arrow_array::{
    Array, ArrayRef, BinaryArray, BooleanArray, Date32Array, Decimal128Array, DictionaryArray,
    Float64Array, Int64Array, LargeStringArray, ListArray, RecordBatch, StringViewArray,
    TimestampMicrosecondArray, UInt64Array,
};
use arrow_schema::Schema;
use keen_notch_core::{
    ColumnRule, OutputType, Plan, PlanOptions, parse_assignment, parse_row_rule,
};
use keen_notch_table::{
    Carving, CellsOut, Columnar, Format, OutColumn, ReadOptions, Source, Summary, Table,
    TableError, To, carve,
};
use parquet::arrow::ArrowWriter;
use parquet::arrow::arrow_reader::ParquetRecordBatchReaderBuilder;
use parquet::basic::Compression;
use parquet::file::metadata::RowGroupMetaData;
use parquet::file::properties::WriterProperties;

fn batch(columns: Vec<(&str, ArrayRef)>) -> RecordBatch {
    RecordBatch::try_from_iter_with_nullable(
        columns.into_iter().map(|(name, array)| (name, array, true)),
    )
    .unwrap()
}

/// A batch of all kinds of columns, in which each row is told from the others by `n`.
fn typed() -> RecordBatch {
    let texts = [Some("FH-0041"), None, Some(""), Some("é \"😀\"\r\n,"), Some("KP-17")];
    let houses: DictionaryArray<Int8Type> =
        [Some("FH"), Some("KP"), None, Some("FH"), Some("KP")].into_iter().collect();
    let lists = ListArray::from_iter_primitive::<Int32Type, _, _>([
        Some(vec![Some(1), None]),
        None,
        Some(vec![]),
        Some(vec![Some(3)]),
        None,
    ]);
    batch(vec![
        ("text", Arc::new(StringViewArray::from_iter(texts))),
        ("large", Arc::new(LargeStringArray::from_iter(texts))),
        ("n", Arc::new(Int64Array::from(vec![9_223_372_036_854_775_807, -1, 0, 7, 12]))),
        ("u", Arc::new(UInt64Array::from(vec![Some(u64::MAX), None, Some(0), Some(7), Some(8)]))),
        (
            "f",
            Arc::new(Float64Array::from(vec![
                Some(0.1),
                Some(1e21),
                None,
                Some(-5.0),
                Some(f64::NAN),
            ])),
        ),
        (
            "d",
            Arc::new(
                Decimal128Array::from(vec![Some(1250), None, Some(-5), Some(0), Some(1)])
                    .with_precision_and_scale(9, 2)
                    .unwrap(),
            ),
        ),
        ("day", Arc::new(Date32Array::from(vec![Some(20_000), None, Some(-1), Some(0), Some(1)]))),
        (
            "at",
            Arc::new(
                TimestampMicrosecondArray::from(vec![1_700_000_000_000_001; 5])
                    .with_timezone("Europe/Prague"),
            ),
        ),
        (
            "is",
            Arc::new(BooleanArray::from(vec![
                Some(true),
                None,
                Some(false),
                Some(true),
                Some(true),
            ])),
        ),
        ("house", Arc::new(houses)),
        (
            "bytes",
            Arc::new(BinaryArray::from_opt_vec(vec![
                Some(b"\xFF\0"),
                None,
                Some(b""),
                Some(b"a"),
                Some(b"b"),
            ])),
        ),
        ("list", Arc::new(lists)),
    ])
}

fn write(path: &Path, batch: &RecordBatch) {
    let mut writer =
        ArrowWriter::try_new(File::create(path).unwrap(), batch.schema(), None).unwrap();
    writer.write(batch).unwrap();
    writer.close().unwrap();
}

fn read(path: &Path, columnar: Columnar) -> RecordBatch {
    let file = File::open(path).unwrap();
    let (schema, batches): (Arc<Schema>, Vec<RecordBatch>) = match columnar {
        Columnar::Parquet => {
            let builder = ParquetRecordBatchReaderBuilder::try_new(file).unwrap();
            (builder.schema().clone(), builder.build().unwrap().map(Result::unwrap).collect())
        }
        Columnar::File => {
            let reader = arrow_ipc::reader::FileReader::try_new(file, None).unwrap();
            (reader.schema(), reader.map(Result::unwrap).collect())
        }
        Columnar::Stream => {
            let reader = arrow_ipc::reader::StreamReader::try_new(file, None).unwrap();
            (reader.schema(), reader.map(Result::unwrap).collect())
        }
    };
    arrow_select::concat::concat_batches(&schema, &batches).unwrap()
}

/// Cuts new columns out of a table and writes all columns.
fn cut(from: &Path, cuts: &[&str], to: &Path, columnar: Columnar) -> Result<Summary, TableError> {
    cut_some(from, cuts, None, to, columnar)
}

/// The same with the rows alone that a condition holds for.
fn cut_some(
    from: &Path,
    cuts: &[&str],
    only: Option<&str>,
    to: &Path,
    columnar: Columnar,
) -> Result<Summary, TableError> {
    let table = Table::open(&Source::File(from.to_owned()), &ReadOptions::default())?;
    let cuts: Vec<_> = cuts.iter().map(|cut| parse_assignment(cut).unwrap()).collect();
    let options = PlanOptions {
        only_rows: only.map(|only| parse_row_rule(only).unwrap()),
        ..PlanOptions::default()
    };
    let plan = Plan::compile(&cuts, table.columns(), &options).unwrap();
    let columns = (0..table.columns().len())
        .map(OutColumn::Source)
        .chain((0..plan.outputs().len()).map(OutColumn::New))
        .collect();
    let carving = Carving::new(&plan, columns);
    carve(
        table,
        &carving,
        Box::new(
            CellsOut::create(To::File(to), Format::Columnar(columnar), "Rows", false)?.unwrap(),
        ),
    )
}

#[test]
fn types_survive_and_new_columns_have_theirs() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    let typed = typed();
    // Many rows, so that several batches and row groups go by.
    let many =
        arrow_select::concat::concat_batches(&typed.schema(), std::iter::repeat_n(&typed, 2_000))
            .unwrap();
    write(&path("0"), &many);
    let mut from: PathBuf = path("0");
    for (n, columnar) in
        [Columnar::Stream, Columnar::File, Columnar::Parquet].into_iter().enumerate()
    {
        let to = path(&(n + 1).to_string());
        let done =
            cut(&from, &[&format!("cut{n} = {{text}} | last 2 | as integer")], &to, columnar)
                .unwrap();
        assert_eq!((done.read, done.written), (10_000, 10_000));
        assert_eq!(
            done.said,
            [format!(
                "Of cut{n}, 2000 cells held no whole number of at most 38 digits, first in row 4: null was written there."
            )]
        );
        from = to;
    }
    let last = read(&from, Columnar::Parquet);
    for (n, column) in many.columns().iter().enumerate() {
        assert_eq!(last.column(n), column, "{}", many.schema().field(n).name());
    }
    let made: ArrayRef = Arc::new(Int64Array::from_iter(
        (0..10_000).map(|n| [Some(41), None, None, None, Some(17)][n % 5]),
    ));
    (12..15).for_each(|n| assert_eq!(last.column(n), &made));

    // As text, each cell is what a person would write.
    let table = Table::open(&Source::File(path("0")), &ReadOptions::default()).unwrap();
    let mut rows = Vec::new();
    let all: Vec<usize> = (0..12).collect();
    keen_notch_table::each_row_of(table, &all, |_, line, cells| {
        rows.push((line, cells.unwrap().join(" | ")));
        Ok(())
    })
    .unwrap();
    assert_eq!(rows[0], (1, "FH-0041 | FH-0041 | 9223372036854775807 | 18446744073709551615 | 0.1 | 12.50 | 2024-10-04 | 2023-11-14T23:13:20.000001+01:00 | true | FH | ff00 | [1, ]".to_owned()));
    assert_eq!(
        rows[3],
        (
            4,
            "é \"😀\"\r\n, | é \"😀\"\r\n, | 7 | 7 | -5 | 0.00 | 1970-01-01 | 2023-11-14T23:13:20.000001+01:00 | true | FH | 61 | [3]"
                .to_owned()
        )
    );
}

/// Where only cells are asked for, no record is made of a row: the cells are the same.
#[test]
fn cells_are_those_of_records() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    let many = arrow_select::concat::concat_batches(
        &typed().schema(),
        std::iter::repeat_n(&typed(), 1_700),
    )
    .unwrap();
    // A text that is longer than a block, and one that begins with a quote.
    let odd = |n: i32| {
        [(n == 4_097).then(|| "long ".repeat(200_000)), (n % 3 == 0).then(|| format!("\"{n}\""))]
            .into_iter()
            .flatten()
            .next()
    };
    let odd = arrow_array::StringArray::from_iter((0..8_500).map(odd));
    let names: Vec<String> = many
        .schema()
        .fields()
        .iter()
        .map(|field| field.name().clone())
        .chain(["odd".to_owned()])
        .collect();
    let columns = many.columns().iter().cloned().chain([Arc::new(odd) as ArrayRef]);
    write(&path("in"), &batch(names.iter().map(String::as_str).zip(columns).collect()));
    let cuts: Vec<String> =
        names.iter().map(|name| format!("cut_{name} = {{{name}}} | last 40")).collect();
    cut(
        &path("in"),
        &cuts.iter().map(String::as_str).collect::<Vec<_>>(),
        &path("out"),
        Columnar::Parquet,
    )
    .unwrap();
    let table = Table::open(&Source::File(path("out")), &ReadOptions::default()).unwrap();
    let mut rows = 0;
    keen_notch_table::each_row_of(table, &(0..26).collect::<Vec<_>>(), |row, _, cells| {
        let (given, made) = cells.as_ref().unwrap().split_at(13);
        for (given, made) in given.iter().zip(made) {
            let last: String =
                given.chars().skip(given.chars().count().saturating_sub(40)).collect();
            assert_eq!(last, made.as_ref(), "row {row}");
        }
        rows += 1;
        Ok(())
    })
    .unwrap();
    assert_eq!(rows, 8_500);
}

/// A file of Arrow has one dictionary for a column, which grows; where its keys cannot count all
/// values, nothing is written.
#[test]
fn dictionaries_become_one() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    let batch_of = |values: &[Option<&str>]| {
        let keyed: DictionaryArray<Int8Type> = values.iter().copied().collect();
        batch(vec![
            ("house", Arc::new(keyed)),
            ("n", Arc::new(Int64Array::from_iter_values(0..values.len() as i64))),
        ])
    };
    let many: Vec<String> = (0..130).map(|n| format!("H{n}")).collect();
    let some = |range: std::ops::Range<usize>| {
        many[range].iter().map(|name| Some(name.as_str())).collect::<Vec<_>>()
    };
    // The first one has no values at all.
    let batches = [
        batch_of(&[None, None]),
        batch_of(&[Some("FH"), None, Some("KP")]),
        batch_of(&[Some("KP"), Some("é"), None]),
        batch_of(&some(0..70)),
    ];
    for (batches, fits) in
        [(batches.to_vec(), true), ([&batches[..], &[batch_of(&some(60..130))]].concat(), false)]
    {
        let mut writer = arrow_ipc::writer::StreamWriter::try_new(
            File::create(path("in")).unwrap(),
            &batches[0].schema(),
        )
        .unwrap();
        batches.iter().for_each(|batch| writer.write(batch).unwrap());
        writer.finish().unwrap();
        let done = cut(&path("in"), &["end = {house} | last 1"], &path("out"), Columnar::File);
        if !fits {
            assert!(done.unwrap_err().to_string().contains("numbered as Int8"));
            assert!(!path("out").exists());
            continue;
        }
        let (found, wanted) =
            (read(&path("out"), Columnar::File), read(&path("in"), Columnar::Stream));
        let text =
            |column: &ArrayRef| arrow_cast::cast(column, &arrow_schema::DataType::Utf8).unwrap();
        assert_eq!(
            (text(found.column(0)), found.column(0).data_type()),
            (text(wanted.column(0)), wanted.column(0).data_type())
        );
        std::fs::remove_file(path("out")).unwrap();
    }
}

/// Row groups of which all rows stay are copied verbatim, compressed as they are; others are
/// written anew.
#[test]
fn row_groups_are_copied_where_they_stay_whole() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    let typed = typed();
    let many =
        arrow_select::concat::concat_batches(&typed.schema(), std::iter::repeat_n(&typed, 1_000))
            .unwrap();
    // The place of each row, and a number that needs more than 64 bits in the last but one.
    let places = Arc::new(Int64Array::from_iter_values(0..5_000)) as ArrayRef;
    let long = |n| {
        if n == 4_998 { "99999999999999999999".to_owned() } else { format!("{:04}", n % 7_000) }
    };
    let texts = Arc::new(LargeStringArray::from_iter_values((0..5_000).map(long))) as ArrayRef;
    let (columns, names) = (many.columns().iter().cloned().chain([places, texts]), many.schema());
    let names = names.fields().iter().map(|field| field.name().as_str()).chain(["place", "long"]);
    let many = batch(names.zip(columns).collect());
    // Rows in a row group, the rows that stay, the row groups there are then and how many of these
    // are copied.
    type Stays = fn(usize) -> bool;
    let cases: [(usize, Option<&str>, Stays, usize, usize); 6] = [
        (5_000, None, |_| true, 1, 1),
        (777, None, |_| true, 7, 7),
        (50, None, |_| true, 100, 100),
        (1_000, Some("{place} value >= 1000"), |n| n >= 1_000, 4, 4),
        (1_000, Some("{place} value >= 700"), |n| n >= 700, 1, 0),
        (777, Some("not {place} ends with \"7\""), |n| n % 10 != 7, 1, 0),
    ];
    for (in_group, only, stays, groups, copied) in cases {
        let properties =
            WriterProperties::builder().set_max_row_group_row_count(Some(in_group)).build();
        let mut writer = ArrowWriter::try_new(
            File::create(path("in")).unwrap(),
            many.schema(),
            Some(properties),
        )
        .unwrap();
        writer.write(&many).unwrap();
        writer.close().unwrap();
        let staying = BooleanArray::from_iter((0..5_000).map(|n| Some(stays(n))));
        let wanted = arrow_select::filter::filter_record_batch(&many, &staying).unwrap();
        for cuts in [
            &["end = {place} | last 1 | as integer"][..],
            &["wide = {long} | trim | as integer", "end = {place} | last 1 | as integer"],
        ] {
            cut_some(&path("in"), cuts, only, &path("out"), Columnar::Parquet).unwrap();
            let metadata =
                ParquetRecordBatchReaderBuilder::try_new(File::open(path("out")).unwrap())
                    .unwrap()
                    .metadata()
                    .clone();
            let is_copied = |group: &&RowGroupMetaData| {
                group.column(0).compression() == Compression::UNCOMPRESSED
            };
            // What had been written when a column became wider was written anew.
            if cuts.len() == 1 {
                let found = (
                    metadata.num_row_groups(),
                    metadata.row_groups().iter().filter(is_copied).count(),
                );
                assert_eq!(found, (groups, copied), "{in_group} {only:?}");
            }
            let last = read(&path("out"), Columnar::Parquet);
            (0..14).for_each(|n| {
                assert_eq!(
                    last.column(n),
                    wanted.column(n),
                    "{in_group} {only:?} {}",
                    wanted.schema().field(n).name()
                )
            });
            let ends: ArrayRef = Arc::new(Int64Array::from_iter_values(
                (0..5_000).filter(|n| stays(*n as usize)).map(|n| n % 10),
            ));
            assert_eq!(last.column(last.num_columns() - 1), &ends);
            if cuts.len() == 2 {
                let longs = last
                    .column(14)
                    .as_primitive::<Decimal128Type>()
                    .iter()
                    .map(|long| format!("{:04}", long.unwrap()));
                assert!(
                    longs.eq(wanted
                        .column(13)
                        .as_string::<i64>()
                        .iter()
                        .map(|text| text.unwrap().to_owned())),
                    "{in_group} {only:?}"
                );
            }
        }
    }
}

/// The file says of each new column what its least and its greatest text are, short where they are
/// long, and how many are missing.
#[test]
fn readers_are_told_the_least_and_the_greatest_text() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    let rows = (0..300_000).map(|n| match n {
        7 => "\"first, é\",a\n".to_owned(),
        200_000 => format!("{},zz\n", "é".repeat(50)),
        _ => format!("{},\n", ["seed", "tray", "shelf"][n % 3]),
    });
    std::fs::write(path("in.csv"), "note,mark\n".to_owned() + &rows.collect::<String>()).unwrap();
    cut(&path("in.csv"), &["x = {note} | upper"], &path("out"), Columnar::Parquet).unwrap();
    let file = File::open(path("out")).unwrap();
    let metadata = ParquetRecordBatchReaderBuilder::try_new(file).unwrap().metadata().clone();
    let said = metadata.row_groups().iter().flat_map(|group| group.columns()).map(|column| {
        let said = column.statistics().unwrap();
        let text =
            |bytes: Option<&[u8]>| bytes.map(|text| String::from_utf8(text.to_vec()).unwrap());
        let ends = [text(said.min_bytes_opt()), text(said.max_bytes_opt())];
        (ends.map(Option::unwrap_or_default), said.max_is_exact(), said.null_count_opt().unwrap())
    });
    let ends = |least: &str, greatest: &str| [least.to_owned(), greatest.to_owned()];
    let long = |e: &str, next: &str| e.repeat(31) + next;
    let groups = [131_072, 131_072, 37_856];
    let wanted = [
        (ends("first, é", "tray"), true, 0),
        (ends("a", "a"), true, groups[0] - 1),
        (ends("FIRST, É", "TRAY"), true, 0),
        (ends("seed", &long("é", "ê")), false, 0),
        (ends("zz", "zz"), true, groups[1] - 1),
        (ends("SEED", &long("É", "Ê")), false, 0),
        (ends("seed", "tray"), true, 0),
        (ends("", ""), false, groups[2]),
        (ends("SEED", "TRAY"), true, 0),
    ];
    assert_eq!(said.collect::<Vec<_>>(), wanted);
}

#[cfg(unix)]
#[test]
fn columns_of_texts_are_as_wide_as_they_must_be() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    // The last row is one that the first 5000 did not lead to expect.
    let rows = |last: &str| {
        (0..5000).map(|n| format!("{{\"i\":{n},\"t\":\"007\",\"b\":true}}\n")).collect::<String>()
            + last
    };
    let cuts = [
        "whole = {t} | as integer",
        "exact = {t} | as decimal 2",
        "day = {t} | as date",
        "float = {t} | as number",
    ];
    let cases = [
        (
            r#"{"i":5000,"t":"8","b":false}"#,
            "Int64 Utf8 Boolean Int64 Decimal128(38, 2) Date32 Float64",
            "5000 8 false 8 8.00  8.0",
        ),
        (
            r#"{"i":1e3,"t":"99999999999999999999","b":0}"#,
            "Float64 Utf8 Utf8 Decimal128(38, 0) Decimal128(38, 2) Date32 Float64",
            "1000.0 99999999999999999999 0 99999999999999999999 99999999999999999999.00  1e20",
        ),
        (
            r#"{"i":10000000000000000000,"t":"-1.25","b":null}"#,
            "Decimal128(38, 0) Utf8 Boolean Int64 Decimal128(38, 2) Date32 Float64",
            "10000000000000000000 -1.25   -1.25  -1.25",
        ),
        (
            r#"{"i":null,"t":"2031-05-12","b":null}"#,
            "Int64 Utf8 Boolean Int64 Decimal128(38, 2) Date32 Float64",
            " 2031-05-12    2031-05-12 ",
        ),
    ];
    for (n, (last, types, cells)) in cases.into_iter().enumerate() {
        let columnar = [Columnar::Parquet, Columnar::File, Columnar::Stream][n % 3];
        std::fs::write(path("in.jsonl"), rows(last)).unwrap();
        cut(&path("in.jsonl"), &cuts, &path("out"), columnar).unwrap();
        let written = read(&path("out"), columnar);
        let found: Vec<String> =
            written.schema().fields().iter().map(|field| field.data_type().to_string()).collect();
        assert_eq!(found.join(" "), types, "{last}");
        let row = written
            .columns()
            .iter()
            .map(|column| arrow_cast::display::array_value_to_string(column, 5000).unwrap());
        assert_eq!(row.collect::<Vec<_>>().join(" "), cells, "{last}");
        let before = arrow_cast::display::array_value_to_string(written.column(0), 4999).unwrap();
        assert_eq!(before, if n == 1 { "4999.0" } else { "4999" });
        assert_eq!(written.column(5).null_count(), if n == 3 { 5000 } else { 5001 });
    }
    std::fs::write(path("in.jsonl"), rows(r#"{"i":1e3,"t":"8","b":null,"late":{"x":[1]}}"#))
        .unwrap();
    cut(&path("in.jsonl"), &cuts[..1], &path("out"), Columnar::Parquet).unwrap();
    let schema = read(&path("out"), Columnar::Parquet).schema();
    let found: Vec<String> = schema
        .fields()
        .iter()
        .map(|field| format!("{} {}", field.name(), field.data_type()))
        .collect();
    assert_eq!(found, ["i Float64", "t Utf8", "b Boolean", "late.x Utf8", "whole Int64"]);
}

#[test]
fn what_is_broken_is_said() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    write(&path("whole"), &typed());
    let whole = std::fs::read(path("whole")).unwrap();
    std::fs::write(path("cut"), &whole[..whole.len() - 9]).unwrap();
    std::fs::write(path("arrow"), b"ARROW1\0\0\0\0\0").unwrap();
    std::fs::write(path("stream"), b"\xFF\xFF\xFF\xFF\x10\0\0\0\0").unwrap();
    for (name, said) in [
        ("cut", "is a Parquet file"),
        ("arrow", "is an Arrow file"),
        ("stream", "is an Arrow stream"),
    ] {
        let error = cut(&path(name), &["a = {n}"], &path("out"), Columnar::Parquet)
            .unwrap_err()
            .to_string();
        assert!(error.contains(&format!("{said} that cannot be read: ")), "{error}");
        assert!(!path("out").exists());
    }
}

/// What a column's type has no room for is a finding, and nothing else is lost.
#[test]
fn no_cell_of_a_typed_column_is_lost_without_a_finding() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name);
    let long = "9".repeat(38);
    let texts = [
        "0",
        "-0",
        "007",
        "12",
        "-12",
        "+12",
        "1.5",
        "-1.50",
        ".5",
        "5.",
        "-",
        ".",
        "-.",
        "1e5",
        "1,5",
        "12 ",
        "inf",
        "NaN",
        "٣",
        "--1",
        "1-",
        "9223372036854775808",
        &long,
        &format!("{long}0"),
        &format!("0.{long}"),
        "0.125",
        "2031-05-12",
        "2031-5-2",
        "2031-02-30",
        "20310512",
        "2031-05-12T10:00",
        "12.05.2031",
        "true",
        "x",
    ];
    std::fs::write(
        path("t.csv"),
        format!("text\n{}\n", texts.map(|text| format!("\"{text}\"")).join("\n")),
    )
    .unwrap();
    for said in ["text", "number", "integer", "date", "decimal 0", "decimal 2", "decimal 37"] {
        let output_type: OutputType = said.parse().unwrap();
        assert_eq!(output_type.to_string(), said);
        let mut table = Table::open(&Source::File(path("t.csv")), &ReadOptions::default()).unwrap();
        table.write_as(0, output_type);
        let rule = ColumnRule {
            column: "text".to_owned(),
            required: false,
            unique: false,
            check: None,
            output_type: Some(output_type),
        };
        let plan = Plan::compile(
            &[],
            table.columns(),
            &PlanOptions { columns: vec![rule], ..PlanOptions::default() },
        )
        .unwrap();
        let carving = Carving {
            findings: Some(path("f.csv")),
            ..Carving::new(&plan, vec![OutColumn::Source(0)])
        };
        let sink = CellsOut::create(
            To::File(&path("out")),
            Format::Columnar(Columnar::Parquet),
            "Rows",
            false,
        )
        .unwrap()
        .unwrap();
        carve(table, &carving, Box::new(sink)).unwrap();
        let written = read(&path("out"), Columnar::Parquet);
        let findings = std::fs::read_to_string(path("f.csv")).unwrap();
        for (n, text) in texts.iter().enumerate() {
            let is_finding = findings.lines().any(|line| line.starts_with(&format!("{},", n + 1)));
            assert!(
                is_finding || !written.column(0).is_null(n),
                "{text} as {said}: lost without a finding"
            );
            // Parquet reads these too, and other outputs do not.
            let is_lenient = [
                "+12",
                ".5",
                "5.",
                "1e5",
                "inf",
                "NaN",
                "2031-5-2",
                "20310512",
                "2031-05-12T10:00",
            ]
            .contains(text);
            assert!(
                !is_finding || is_lenient || written.column(0).is_null(n),
                "{text} as {said}: a finding for nothing"
            );
        }
    }
}
