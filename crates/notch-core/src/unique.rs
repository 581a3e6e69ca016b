//! Which rows have a text in common: the hashes of all texts are gathered in a first pass and asked
//! in a second.
//!
//! A row costs 21 bytes for each column asked about, and a little more while the hashes are sorted.

use xxhash_rust::xxh3::xxh3_128;

use crate::program::Plan;

/// Hashes are divided by their first bits, so that sorting one part needs little room beside the
/// others.
const PARTS: usize = 64;
/// How many rows of a part are kept in one piece.
const BLOCK: usize = 1024;

/// The hash of a text, 128 bits, then the number of the row, 40 bits: in this order, entries of one
/// text stand side by side.
type Entry = [u8; 21];

fn entry(text: &str, row: u64) -> Entry {
    let mut entry = [0; 21];
    entry[..16].copy_from_slice(&xxh3_128(text.as_bytes()).to_be_bytes());
    entry[16..].copy_from_slice(&row.to_be_bytes()[3..]);
    entry
}

fn part(entry: &Entry) -> usize {
    usize::from(entry[0]) % PARTS
}

fn row(entry: &Entry) -> u64 {
    entry[16..].iter().fold(0, |row, byte| row << 8 | u64::from(*byte))
}

/// The hashes of one column's texts, while they are gathered.
#[derive(Debug)]
pub(crate) struct Seen(Vec<Vec<Vec<Entry>>>);

impl Default for Seen {
    fn default() -> Self {
        Self(vec![Vec::new(); PARTS])
    }
}

impl Seen {
    pub(crate) fn add(&mut self, text: &str, row: u64) {
        let entry = entry(text, row);
        let blocks = &mut self.0[part(&entry)];
        match blocks.last_mut() {
            Some(block) if block.len() < BLOCK => block.push(entry),
            _ => {
                let mut block = Vec::with_capacity(BLOCK);
                block.push(entry);
                blocks.push(block);
            }
        }
    }

    /// Keeps what occurs more than once.
    pub(crate) fn into_doubles(self) -> Doubles {
        Doubles(
            self.0
                .into_iter()
                .map(|blocks| {
                    let mut entries = blocks.concat();
                    drop(blocks);
                    entries.sort_unstable();
                    let mut doubles = Vec::new();
                    entries
                        .chunk_by(|a, b| a[..16] == b[..16])
                        .filter(|same| same.len() > 1)
                        .for_each(|same| doubles.extend_from_slice(same));
                    doubles
                })
                .collect(),
        )
    }
}

/// The rows of one column whose text stands in other rows too; of parts of a table the row is 0.
#[derive(Debug, Clone)]
pub(crate) struct Doubles(Vec<Vec<Entry>>);

impl Doubles {
    /// The first other row with this text, by its number; `None` when there is none.
    pub(crate) fn other(&self, text: &str, this: u64) -> Option<u64> {
        let wanted = entry(text, 0);
        let entries = &self.0[part(&wanted)];
        let from = entries.partition_point(|entry| entry[..16] < wanted[..16]);
        entries[from..]
            .iter()
            .take_while(|entry| entry[..16] == wanted[..16])
            .map(row)
            .find(|row| *row != this)
    }
}

/// What a first pass over the rows gathers for the tests that ask whether a text is unique.
#[derive(Debug, Default)]
pub struct Gathered {
    pub(crate) seen: Vec<Seen>,
}

impl Gathered {
    /// What the second pass asks.
    pub fn finish(self) -> AllRows {
        AllRows { doubles: self.seen.into_iter().map(Seen::into_doubles).collect() }
    }
}

/// What is known of all rows when the second pass begins; shared between threads.
#[derive(Debug)]
pub struct AllRows {
    pub(crate) doubles: Vec<Doubles>,
}

impl AllRows {
    /// What is known of a part of a table: the texts that stand in several rows of the whole, for
    /// each thing that asks for it, by its number from 0 ([`Plan::unique_texts`](crate::Plan)).
    /// Which rows they are is not known.
    ///
    /// # Errors
    /// For a text of these nothing asks: which one, from 1.
    pub fn of_texts<T: AsRef<str>>(
        plan: &Plan,
        texts: impl IntoIterator<Item = (usize, T)>,
    ) -> Result<Self, u64> {
        let mut doubles = vec![Doubles(vec![Vec::new(); PARTS]); plan.uniques.len()];
        for ((place, text), n) in texts.into_iter().zip(1_u64..) {
            let entry = entry(text.as_ref(), 0);
            let of = doubles.get_mut(place).ok_or(n)?;
            of.0[part(&entry)].push(entry);
        }
        doubles.iter_mut().flat_map(|of| &mut of.0).for_each(|part| part.sort_unstable());
        Ok(Self { doubles })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn doubles_are_found_and_name_another_row() {
        let mut seen = Seen::default();
        let texts: Vec<String> = (0..50_000)
            .map(|n| if n % 1000 == 7 { "same".to_owned() } else { format!("text {n}") })
            .collect();
        texts.iter().zip(1..).for_each(|(text, row)| seen.add(text, row));
        let doubles = seen.into_doubles();
        for (text, row) in texts.iter().zip(1..) {
            let wanted = (text == "same").then_some(if row == 8 { 1008 } else { 8 });
            assert_eq!(doubles.other(text, row), wanted, "{text} in row {row}");
        }
    }
}
