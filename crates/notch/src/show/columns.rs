//! Rows of cells, aligned.

use super::width::width;

/// Which side of its column a cell stands on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Align {
    /// Texts.
    Left,
    /// Figures.
    Right,
}

/// Sets rows in aligned columns, two blanks between them, each line after two blanks.
pub fn aligned(rows: &[Vec<String>], align: &[Align]) -> String {
    let widths: Vec<usize> = (0..align.len())
        .map(|column| {
            rows.iter().filter_map(|row| row.get(column)).map(|cell| width(cell)).max().unwrap_or(0)
        })
        .collect();
    let mut text = String::new();
    for row in rows {
        let mut line = String::new();
        for ((cell, align), wide) in row.iter().zip(align).zip(&widths) {
            let fill = " ".repeat(wide - width(cell));
            line.push_str("  ");
            match align {
                Align::Left => line.extend([cell.as_str(), &fill]),
                Align::Right => line.extend([&fill, cell.as_str()]),
            }
        }
        text.push_str(line.trim_end());
        text.push('\n');
    }
    text
}
