//! Reads every record with the csv crate and writes it again: the least a simple tool pays.

use std::error::Error;
use std::fs::File;

fn main() -> Result<(), Box<dyn Error>> {
    let mut paths = std::env::args().skip(1);
    let (from, to) = (paths.next().ok_or("a table is wanted")?, paths.next().ok_or("an output is wanted")?);
    let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(File::open(from)?);
    let mut writer = csv::Writer::from_writer(File::create(to)?);
    let mut record = csv::ByteRecord::new();
    while reader.read_byte_record(&mut record)? {
        writer.write_byte_record(&record)?;
    }
    Ok(writer.flush()?)
}
