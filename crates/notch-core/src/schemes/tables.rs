//! Schemes that walk through a table, digit by digit.

use super::digits;

/// The totally anti-symmetric quasigroup of order 10 with zeros in its diagonal.
const DAMM: [[u8; 10]; 10] = [
    [0, 3, 1, 7, 5, 9, 8, 6, 4, 2],
    [7, 0, 9, 2, 1, 5, 4, 8, 6, 3],
    [4, 2, 0, 6, 8, 7, 1, 3, 5, 9],
    [1, 7, 5, 0, 9, 8, 3, 4, 2, 6],
    [6, 1, 2, 3, 0, 4, 5, 9, 7, 8],
    [3, 6, 7, 4, 2, 0, 9, 5, 8, 1],
    [5, 8, 6, 9, 7, 2, 0, 1, 3, 4],
    [8, 9, 4, 5, 3, 6, 2, 0, 1, 7],
    [9, 4, 3, 8, 6, 1, 7, 2, 0, 5],
    [2, 5, 8, 1, 4, 3, 6, 7, 9, 0],
];

fn damm_walk(text: &str) -> Option<u8> {
    Some(digits(text)?.fold(0, |row, digit| DAMM[usize::from(row)][digit as usize]))
}

pub(super) fn damm(text: &str) -> bool {
    text.len() > 1 && damm_walk(text) == Some(0)
}

pub(super) fn damm_digit(payload: &str) -> Option<String> {
    damm_walk(payload).map(|digit| digit.to_string())
}

/// The product of two elements of the dihedral group of order 10: turns of a pentagon 0–4,
/// reflections 5–9.
fn product(a: u32, b: u32) -> u32 {
    match (a < 5, b < 5) {
        (true, true) => (a + b) % 5,
        (true, false) => 5 + (a + b) % 5,
        (false, true) => 5 + (a - b) % 5,
        (false, false) => (a + 5 - b) % 5,
    }
}

/// What each digit is exchanged for, once for every place it is away from the check digit.
const EXCHANGED: [u32; 10] = [1, 5, 7, 6, 2, 8, 3, 0, 9, 4];

fn verhoeff_walk(text: &str, places_after: usize) -> Option<u32> {
    let walk = digits(text)?.rev().enumerate().fold(0, |sum, (place, digit)| {
        let exchanged =
            (0..(place + places_after) % 8).fold(digit, |digit, _| EXCHANGED[digit as usize]);
        product(sum, exchanged)
    });
    Some(walk)
}

pub(super) fn verhoeff(text: &str) -> bool {
    text.len() > 1 && verhoeff_walk(text, 0) == Some(0)
}

pub(super) fn verhoeff_digit(payload: &str) -> Option<String> {
    let sum = verhoeff_walk(payload, 1)?;
    (0..10).find(|digit| product(sum, *digit) == 0).map(|digit| digit.to_string())
}
