//! Texts on the screen: measured, clipped, and in ASCII where the terminal shows no more.

use ratatui::buffer::Buffer;
use ratatui::style::{Color, Modifier, Style};

use crate::show::{drawn_character, visible, width};

/// The few ways text is set apart, as on paper: each only repeats what words or places say.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Look {
    #[default]
    Plain,
    /// What has the keys, and names.
    Strong,
    /// Commands and words to type.
    Word,
    Wrong,
    Finding,
    Quiet,
    /// What is taken of a text.
    Taken,
}

/// What stands for signs where a terminal shows ASCII alone.
const SIGNS: [(char, &str); 19] = [
    ('›', ">"),
    ('‹', "<"),
    ('◆', "*"),
    ('│', "|"),
    ('─', "-"),
    ('┬', "+"),
    ('┴', "+"),
    ('╰', "+"),
    ('╯', "+"),
    ('╷', "."),
    ('┃', ":"),
    ('▔', "^"),
    ('‾', "~"),
    ('╌', "-"),
    ('…', "..."),
    ('·', ","),
    ('␣', " "),
    ('–', "-"),
    ('◌', "?"),
];

/// A buffer that texts are put on.
pub struct Canvas<'b> {
    pub buffer: &'b mut Buffer,
    /// The terminal shows ASCII alone.
    pub ascii: bool,
    /// There are colours.
    pub colors: bool,
}

/// A text as a terminal of ASCII shows it.
pub fn in_ascii(text: &str) -> String {
    let mut shown = String::with_capacity(text.len());
    for c in text.chars() {
        match SIGNS.iter().find(|(sign, _)| *sign == c) {
            Some((_, sign)) => shown.push_str(sign),
            None if c.is_ascii() => shown.push(c),
            None => shown.push_str(&format!("\\u{{{:X}}}", c as u32)),
        }
    }
    shown
}

impl Canvas<'_> {
    pub fn width(&self) -> usize {
        usize::from(self.buffer.area.width)
    }

    pub fn height(&self) -> usize {
        usize::from(self.buffer.area.height)
    }

    fn style(&self, look: Look) -> Style {
        let (modifier, color) = match look {
            Look::Plain => (Modifier::empty(), Color::Reset),
            Look::Strong => (Modifier::BOLD, Color::Reset),
            Look::Word => (Modifier::empty(), Color::Cyan),
            Look::Wrong => (Modifier::BOLD, Color::Red),
            Look::Finding => (Modifier::empty(), Color::Yellow),
            Look::Quiet => (Modifier::DIM, Color::Reset),
            Look::Taken => (Modifier::UNDERLINED, Color::Reset),
        };
        let color = if self.colors { color } else { Color::Reset };
        // Nothing of what stood there before shows through.
        Style::new().fg(color).add_modifier(modifier).remove_modifier(Modifier::all() - modifier)
    }

    /// The text as it is shown here.
    pub fn shown(&self, text: &str) -> String {
        if self.ascii && !text.is_ascii() { in_ascii(text) } else { text.to_owned() }
    }

    /// How wide a text is here, in terminal columns.
    pub fn wide(&self, text: &str) -> usize {
        if self.ascii { in_ascii(text).len() } else { width(text) }
    }

    /// Puts a text, clipped to a width, and returns how wide it was.
    pub fn put(&mut self, (x, y): (usize, usize), text: &str, look: Look, most: usize) -> usize {
        let most = most.min(self.width().saturating_sub(x));
        if y >= self.height() || most == 0 {
            return 0;
        }
        let text = self.clipped(text, most);
        let style = self.style(look);
        self.buffer.set_string(x as u16, y as u16, &text, style);
        width(&text)
    }

    /// The text as it is shown, cut to a width with dots where something was cut off.
    pub fn clipped(&self, text: &str, most: usize) -> String {
        let text = self.shown(text);
        if width(&text) <= most {
            return text;
        }
        let dots = if self.ascii { "..." } else { "…" };
        let room = most.saturating_sub(width(dots));
        let mut kept = String::new();
        let mut used = 0;
        for c in text.chars() {
            let wide = width(c.encode_utf8(&mut [0; 4]));
            if used + wide > room {
                break;
            }
            kept.push(c);
            used += wide;
        }
        kept.push_str(&dots.chars().take(most - used.min(most)).collect::<String>());
        kept
    }

    /// Puts a text with its end at a column.
    pub fn put_right(&mut self, (end, y): (usize, usize), text: &str, look: Look) -> usize {
        let wide = self.wide(text);
        let x = end.saturating_sub(wide);
        self.put((x, y), text, look, wide);
        x
    }

    /// A line across, with a title in it.
    pub fn rule(&mut self, y: usize, from: usize, to: usize, title: &str, is_strong: bool) {
        let line = "─".repeat(to.saturating_sub(from));
        self.put((from, y), &line, Look::Quiet, to - from);
        let look = if is_strong { Look::Strong } else { Look::Plain };
        let room = (to - from).saturating_sub(4);
        if !title.is_empty() {
            let title = self.clipped(title, room);
            self.put((from + 1, y), &format!(" {title} "), look, room + 2);
        }
    }

    /// How a character of a cell is drawn here.
    pub fn character(&self, character: &str) -> (String, usize) {
        if !self.ascii {
            return drawn_character(character);
        }
        let shown = match character {
            " " => " ".to_owned(),
            _ if character.is_ascii() => in_ascii(&visible(character)),
            _ => in_ascii(character),
        };
        let wide = shown.len();
        (shown, wide)
    }
}

/// A printed text as pieces of one look each, line by line: the escape sequences of the other
/// commands' printing are read, and none is left.
pub fn lines(printed: &str) -> Vec<Vec<(String, Look)>> {
    printed.lines().map(line).collect()
}

fn line(printed: &str) -> Vec<(String, Look)> {
    let mut pieces = Vec::new();
    let mut look = Look::Plain;
    for (n, part) in printed.split("\u{1b}[").enumerate() {
        let text = match part.split_once('m').filter(|_| n > 0) {
            Some((codes, text)) => {
                look = codes.split(';').fold(Look::Plain, |look, code| match code {
                    "1" if look == Look::Plain => Look::Strong,
                    "2" => Look::Quiet,
                    "31" => Look::Wrong,
                    "33" => Look::Finding,
                    "36" => Look::Word,
                    _ => look,
                });
                text
            }
            None => part,
        };
        if !text.is_empty() {
            pieces.push((text.to_owned(), look));
        }
    }
    pieces
}
