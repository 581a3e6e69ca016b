//! The kernel of `pad left`.

use crate::program::span::CellSpan;
use crate::text::masks::{WIDE, each_its_own, wide};

/// Pads pieces on the left, with a fill character of one byte, to so many characters; a piece that is not plain or too long is given up.
pub(super) fn pad_left(places: &mut [CellSpan], text: &mut String, fill: u8, width: usize) {
    // All of them are put together before they are made text.
    let mut made = vec![fill; places.len() * width + 2 * WIDE];
    let (bytes, behind) = (text.as_bytes(), text.len());
    if u32::try_from(behind + made.len()).is_err() {
        return places.fill(CellSpan::NONE);
    }
    let mut at = 0;
    for place in places.iter_mut().filter(|place| !place.is_none()) {
        let (from, to) = place.span();
        // Fill would make something of what is blank.
        let is_plain = bytes[from].is_ascii_graphic() && each_its_own(bytes, from, to);
        let Some(missing) = width.checked_sub(to - from).filter(|_| is_plain) else {
            *place = CellSpan::NONE;
            continue;
        };
        if width <= WIDE {
            // Copies of fixed length: what they write behind the text is written over.
            let room = &mut made[at..at + 2 * WIDE];
            room[..WIDE].copy_from_slice(&[fill; WIDE]);
            room[missing..missing + WIDE].copy_from_slice(&wide(bytes, from));
        } else {
            made[at + missing..at + width].copy_from_slice(&bytes[from..to]);
        }
        *place = CellSpan::at(behind + at, behind + at + width);
        at += width;
    }
    match std::str::from_utf8(&made[..at]) {
        Ok(made) => text.push_str(made),
        // Plain characters are text.
        Err(_) => places.fill(CellSpan::NONE),
    }
}
