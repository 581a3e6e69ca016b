//! A line of text that is edited: the cut line, and the fields of dialogues.

use unicode_segmentation::UnicodeSegmentation;

/// A text and the place in it where one types, in bytes, always between two characters as people
/// see them.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Field {
    text: String,
    cursor: usize,
}

/// What a key does to a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Edit {
    Left,
    Right,
    WordLeft,
    WordRight,
    Home,
    End,
    /// Deletes the character left of the cursor.
    Back,
    /// Deletes the character right of it.
    Delete,
    /// Deletes the word to the left.
    BackWord,
    /// Deletes all to the left.
    BackAll,
}

impl Edit {
    /// Whether it takes characters away.
    pub fn deletes(self) -> bool {
        matches!(self, Edit::Back | Edit::Delete | Edit::BackWord | Edit::BackAll)
    }
}

impl Field {
    /// A field with the cursor at its end.
    pub fn of(text: impl Into<String>) -> Self {
        let text = text.into();
        Self { cursor: text.len(), text }
    }

    /// The text.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Where the cursor is, in bytes.
    pub fn cursor(&self) -> usize {
        self.cursor
    }

    /// Sets the cursor at a byte, or at the beginning of the character that it is in.
    pub fn move_to(&mut self, byte: usize) {
        let starts = self.text.grapheme_indices(true).map(|(at, _)| at).chain([self.text.len()]);
        self.cursor = starts.take_while(|at| *at <= byte).last().unwrap_or_default();
    }

    /// Types a text; line ends in it become blanks.
    pub fn insert(&mut self, typed: &str) {
        let typed = typed.replace("\r\n", " ").replace(['\n', '\r'], " ");
        self.text.insert_str(self.cursor, &typed);
        self.cursor += typed.len();
    }

    /// Puts a text in the place of another and the cursor after it.
    pub fn replace(&mut self, place: std::ops::Range<usize>, with: &str) {
        self.text.replace_range(place.clone(), with);
        self.cursor = place.start + with.len();
    }

    /// Does what a key says; returns whether the text is another now.
    pub fn edit(&mut self, edit: Edit) -> bool {
        let (left, right) = (&self.text[..self.cursor], &self.text[self.cursor..]);
        let back = left.graphemes(true).next_back().map_or(0, str::len);
        let ahead = right.graphemes(true).next().map_or(0, str::len);
        let word_back = {
            let trimmed = left.trim_end();
            let word = trimmed
                .rfind(char::is_whitespace)
                .map_or(0, |at| at + trimmed[at..].chars().next().map_or(0, char::len_utf8));
            left.len() - word
        };
        let word_ahead = {
            let trimmed = right.trim_start();
            let word = trimmed.find(char::is_whitespace).unwrap_or(trimmed.len());
            right.len() - trimmed.len() + word
        };
        let before = self.text.len();
        match edit {
            Edit::Left => self.cursor -= back,
            Edit::Right => self.cursor += ahead,
            Edit::WordLeft => self.cursor -= word_back,
            Edit::WordRight => self.cursor += word_ahead,
            Edit::Home => self.cursor = 0,
            Edit::End => self.cursor = self.text.len(),
            Edit::Back => self.take_away(back),
            Edit::BackWord => self.take_away(word_back),
            Edit::BackAll => self.take_away(self.cursor),
            Edit::Delete => {
                self.text.replace_range(self.cursor..self.cursor + ahead, "");
            }
        }
        self.text.len() != before
    }

    fn take_away(&mut self, bytes: usize) {
        self.text.replace_range(self.cursor - bytes..self.cursor, "");
        self.cursor -= bytes;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The text with a bar where the cursor is.
    fn shown(field: &Field) -> String {
        format!("{}|{}", &field.text()[..field.cursor()], &field.text()[field.cursor()..])
    }

    #[test]
    fn keys_do_what_they_do_in_a_text_field() {
        use Edit::*;
        for (edits, then) in [
            (&[][..], "part 4 by \"é\u{301}\"|"),
            (&[Left, Left], "part 4 by \"|é\u{301}\""),
            (&[Left, Back], "part 4 by \"|\""),
            (&[WordLeft], "part 4 by |\"é\u{301}\""),
            (&[WordLeft, WordLeft, Delete], "part 4 |y \"é\u{301}\""),
            (&[Home, WordRight, Right], "part |4 by \"é\u{301}\""),
            (&[BackWord, BackWord], "part 4 |"),
            (&[WordLeft, BackAll], "|\"é\u{301}\""),
            (&[Home, Left, Back, End, Right, Delete], "part 4 by \"é\u{301}\"|"),
        ] {
            let mut field = Field::of("part 4 by \"é\u{301}\"");
            for edit in edits {
                field.edit(*edit);
            }
            assert_eq!(shown(&field), then, "{edits:?}");
        }
        let mut field = Field::of("a");
        field.insert("b\r\nc\nd");
        assert_eq!(shown(&field), "ab c d|");
        field.move_to(2);
        assert_eq!(shown(&field), "ab| c d");
    }
}
