//! Which layout the texts of a shape have, told by one of them.

use super::{Layout, Layouts};
use crate::shape::{ShapePattern, pattern_parts};

/// The layouts of a column, to be compared with shapes. All texts are without control characters
/// and characters beyond ASCII.
pub(crate) struct LayoutsOfShapes<'l> {
    each: Vec<LayoutOfShapes<'l>>,
}

struct LayoutOfShapes<'l> {
    layout: &'l Layout,
    /// The same with a slot for each letter and digit that stands for itself.
    kinds: ShapePattern,
    /// What its texts begin with.
    beginning: String,
}

/// Whether the texts of a shape have a layout.
enum Have {
    All,
    None,
    Perhaps,
}

impl Layouts {
    /// The same to be compared with shapes; `None` where a layout has a number, of which a zero in
    /// front may make another.
    pub(crate) fn of_shapes(&self) -> Option<LayoutsOfShapes<'_>> {
        let each = self.layouts.iter().map(LayoutOfShapes::of);
        Some(LayoutsOfShapes { each: each.collect::<Option<_>>()? })
    }
}

impl LayoutsOfShapes<'_> {
    /// The place of the layout that all texts of a shape have, or `Some(None)` where none has one;
    /// `None` where they may differ. It is told by one of them, which begins with that many bytes
    /// that all begin with.
    pub(crate) fn place(&self, text: &str, same: usize) -> Option<Option<usize>> {
        for (place, of) in self.each.iter().enumerate() {
            match of.have(text, same) {
                Have::All => return Some(Some(place)),
                Have::None => {}
                Have::Perhaps => return None,
            }
        }
        Some(None)
    }
}

impl<'l> LayoutOfShapes<'l> {
    fn of(layout: &'l Layout) -> Option<Self> {
        let parts = pattern_parts(&layout.pattern);
        let beginning = match parts.first() {
            Some((false, literal)) if !layout.ignoring_case => literal.clone(),
            _ => String::new(),
        };
        let mut kinds = String::new();
        for (is_slot, part) in parts {
            match is_slot {
                true if part == "[n]" => return None,
                true => kinds.push_str(&part),
                false => part.chars().for_each(|c| match c {
                    'A'..='Z' => kinds.push_str("[U]"),
                    'a'..='z' => kinds.push_str("[l]"),
                    '0'..='9' => kinds.push_str("[d]"),
                    '[' => kinds.push_str("[[]"),
                    sign => kinds.push(sign),
                }),
            }
        }
        let kinds = ShapePattern::read(&kinds).ok()?.ignoring_case(layout.ignoring_case);
        Some(Self { layout, kinds, beginning })
    }

    fn have(&self, text: &str, same: usize) -> Have {
        let begins_otherwise = self.beginning.len() <= same && !text.starts_with(&self.beginning);
        if begins_otherwise || !self.kinds.matches(text) {
            return Have::None;
        }
        let Some(slots) = self.layout.slots(text) else { return Have::Perhaps };
        // What stands for itself stands where all texts are the same, but for signs.
        let is_open = |(place, byte): (usize, u8)| {
            byte.is_ascii_alphanumeric() && !slots.iter().any(|slot| slot.contains(&place))
        };
        if (same..).zip(text[same..].bytes()).any(is_open) { Have::Perhaps } else { Have::All }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::shape::shape;

    const PATTERNS: [&str; 9] = [
        "LOT-[d+]",
        "[U3]-[d4]",
        "[w]-[d1..3]",
        "A[d]-[x]",
        "[*]B1",
        "[U+]a [l2]",
        "[x]-7",
        "B[[][w+]]",
        "-[d]",
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(6000))]
        /// What is told of a shape is so of each text that has it and begins as it is known to.
        #[test]
        fn what_is_told_of_a_shape_is_so_of_its_texts(
            order in Just(PATTERNS.to_vec()).prop_shuffle(),
            ignoring_case: bool,
            text in "(LOT-|BOX-|A|ab |Qa |B\\[|[A-C]{1,3}|[0-9]{1,4}|[ -]|7|B1|\\]){0,5}",
            others in prop::collection::vec("[A-Ca-c0-9]{24}", 4),
            same in 0..6_usize,
        ) {
            let same = same.min(text.len());
            let patterns = order.iter().map(|pattern| (*pattern, ignoring_case));
            let layouts = Layouts::of_patterns(patterns);
            if let Some(told) = layouts.of_shapes().unwrap().place(&text, same) {
                // Other letters and digits of the same kinds in the same places.
                for other in others {
                    let mut with = other.bytes().cycle();
                    let other: String = text.bytes().enumerate().map(|(place, byte)| {
                        let new = with.next().unwrap_or_default();
                        char::from(match byte {
                            _ if place < same => byte,
                            b'A'..=b'Z' => b'A' + new % 20,
                            b'a'..=b'z' => b'a' + new % 4,
                            b'0'..=b'9' => b'0' + new % 10,
                            _ => byte,
                        })
                    }).collect();
                    prop_assert_eq!(shape(&other), shape(&text));
                    prop_assert_eq!(layouts.place(&other), told, "{} for {}", other, text);
                }
            }
        }
    }
}
