//! The six columns of the benchmark written by hand for its table, on one thread.

use std::error::Error;
use std::fs::File;

fn main() -> Result<(), Box<dyn Error>> {
    let mut paths = std::env::args().skip(1);
    let (from, to) = (paths.next().ok_or("a table is wanted")?, paths.next().ok_or("an output is wanted")?);
    let mut reader = csv::Reader::from_reader(File::open(from)?);
    let mut writer = csv::Writer::from_writer(File::create(to)?);
    let mut header = reader.headers()?.clone();
    ["house", "year", "serial", "team", "domain", "amount"].iter().for_each(|name| header.push_field(name));
    writer.write_record(&header)?;
    let mut record = csv::StringRecord::new();
    let mut serial = String::new();
    let mut amount = String::new();
    while reader.read_record(&mut record)? {
        let mut row = record.clone();
        let (lot, badge, contact, note) = (&record[0], &record[1], &record[2], &record[3]);
        row.push_field(lot.get(..2).unwrap_or_default());
        let mut parts = lot.split('-');
        row.push_field(parts.nth(1).unwrap_or_default());
        serial.clear();
        let part = parts.nth(1).unwrap_or_default();
        (part.len()..8).filter(|_| !part.is_empty()).for_each(|_| serial.push('0'));
        serial.push_str(part);
        row.push_field(&serial);
        row.push_field(badge.rsplit_once('-').map_or("", |(_, team)| team));
        row.push_field(contact.split_once('@').map_or("", |(_, domain)| domain));
        amount.clear();
        if let Some(at) = note.find(|c: char| c.is_ascii_digit()) {
            amount.extend(note[at..].chars().take_while(|c| c.is_ascii_digit() || matches!(c, ',' | '.')).filter(|c| *c != ','));
        }
        row.push_field(amount.trim_end_matches('.'));
        writer.write_record(&row)?;
    }
    Ok(writer.flush()?)
}
