//! Columns that are made up: templates with slots.

/// Numbers that look random, the same in every run.
pub(super) struct Dice(pub u64);

impl Dice {
    pub(super) fn roll(&mut self, sides: usize) -> usize {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((mixed ^ (mixed >> 31)) % sides as u64) as usize
    }

    pub(super) fn one_of<'t>(&mut self, texts: &[&'t str]) -> &'t str {
        texts[self.roll(texts.len())]
    }

    pub(super) fn digits(&mut self, count: usize) -> String {
        (0..count)
            .map(|n| char::from(b'0' + if n == 0 { 1 + self.roll(9) } else { self.roll(10) } as u8))
            .collect()
    }

    fn of(&mut self, letters: &str, count: usize) -> String {
        let letters: Vec<char> = letters.chars().collect();
        (0..count).map(|_| letters[self.roll(letters.len())]).collect()
    }

    /// What stands in a slot of a template.
    fn value(&mut self, slot: &str) -> String {
        const FIRST: [&str; 8] =
            ["Iris", "Tom", "Anna-Lena", "Wren", "Håkon", "Ada", "Moira", "Jo"];
        const LAST: [&str; 8] =
            ["Moran", "Ives", "O’Larkin", "Fell", "Østby", "Thorne", "Vane", "Bell"];
        const PLACES: [&str; 6] =
            ["north gate", "Fernhollow", "the old mill", "Greenrow", "south lane", "Marlow"];
        match slot {
            "first" => self.one_of(&FIRST).to_owned(),
            "last" => self.one_of(&LAST).to_owned(),
            "full" => format!("{} {}", self.one_of(&FIRST), self.one_of(&LAST)),
            "place" => self.one_of(&PLACES).to_owned(),
            "year" => format!("20{}", 20 + self.roll(7)),
            "date" => format!("2026-{:02}-{:02}", 1 + self.roll(12), 1 + self.roll(28)),
            "time" => format!("{:02}:{:02}", self.roll(24), self.roll(60)),
            "phone" => format!("0{} {}", self.digits(3), self.digits(6)),
            "slug" => self.one_of(&["lots", "seed-lots", "beds", "loans-out"]).to_owned(),
            "path" => {
                let depth = 1 + self.roll(4);
                let folders: Vec<&str> = (0..depth)
                    .map(|_| {
                        self.one_of(&["lots", "seed-lots", "2026", "beds", "a.b", "loans_out"])
                    })
                    .collect();
                folders.join("/")
            }
            "person" => match self.roll(4) {
                0 => format!("{}. {}", self.of("IJMT", 1), self.one_of(&LAST)),
                1 => self.one_of(&LAST).to_owned(),
                _ => format!("{} {}", self.one_of(&FIRST), self.one_of(&LAST)),
            },
            "species" => self
                .one_of(&["Rosa canina", "Acer campestre", "Tilia cordata", "Salix alba", "Malus"])
                .to_owned(),
            "FULL" => format!("{} {}", self.one_of(&FIRST), self.one_of(&LAST)).to_uppercase(),
            "ref" => self.one_of(&["ref", "Ref", "REF"]).to_owned(),
            "signed" => format!("{}{}.{}", self.one_of(&["", "-"]), self.roll(30), self.roll(10)),
            "email" => format!(
                "{}.{}@fernhollow.example",
                self.of("abcdeimnorst", 4),
                self.of("abcdeimnorst", 5)
            ),
            "n" => match self.roll(3) {
                0 => {
                    let digits = 1 + self.roll(3);
                    self.digits(digits)
                }
                1 => format!("{}.{}", self.digits(2), self.digits(2)),
                _ => format!("{},{}.{}", self.digits(1), self.digits(3), self.digits(2)),
            },
            slot => {
                let (kind, counts) = slot.split_at(if slot.starts_with("hex") { 3 } else { 1 });
                let (least, most) = counts.split_once('-').unwrap_or((counts, counts));
                let (least, most): (usize, usize) = (least.parse().unwrap(), most.parse().unwrap());
                let count = least + self.roll(most - least + 1);
                match kind {
                    "d" => self.digits(count),
                    "U" => self.of("ABCDEFGHIKLMNOPRSTVW", count),
                    "hex" => self.of("0123456789abcdef", count),
                    _ => panic!("no slot {slot}"),
                }
            }
        }
    }

    /// A text made of a template, with something random in each of its slots.
    pub(super) fn text(&mut self, template: &str) -> String {
        let mut text = String::new();
        for piece in template.split_inclusive(['{', '}']) {
            match piece.strip_suffix('}') {
                Some(slot) => text.push_str(&self.value(slot)),
                None => text.push_str(piece.trim_end_matches('{')),
            }
        }
        text
    }
}
