//! Dates and times of day by a pattern of letters.

use jiff::civil::{Date, DateTime, Time};

use crate::language::ordinal_suffix;

/// One item of a pattern.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Item {
    /// Four figures.
    Year,
    /// Two figures: 69–99 are 19xx, the others 20xx.
    ShortYear,
    /// A month in figures; with zero in front or not.
    Month {
        padded: bool,
    },
    /// A month by name: `Jan` or `January`, in any case.
    MonthName {
        full: bool,
    },
    /// A day in figures; with zero in front or not.
    Day {
        padded: bool,
    },
    /// A day in figures with its ending: `3rd`.
    OrdinalDay,
    /// An hour of 24, or of 12; with zero in front or not.
    Hour {
        of_12: bool,
        padded: bool,
    },
    /// Two figures.
    Minute,
    /// Two figures.
    Second,
    /// `am` or `pm`, in any case.
    Half,
    /// The day of the year, three figures.
    DayOfYear,
    Literal(String),
}

/// The ways of writing a date that are looked for in columns and in examples.
pub(crate) const DATES: [&str; 17] = [
    "YYYY-MM-DD",
    "YYYYMMDD",
    "DDMMYYYY",
    "DD.MM.YYYY",
    "DD/MM/YYYY",
    "MM/DD/YYYY",
    "DD.MM.YY",
    "D.M.YYYY",
    "YYYY/MM/DD",
    "YYYY.MM.DD",
    "DD-MM-YYYY",
    "D/M/YYYY",
    "M/D/YYYY",
    "D MMM YYYY",
    "D MMMM YYYY",
    "MMM D, YYYY",
    "MMMM D, YYYY",
];

/// How a date is written: `DDMMYYYY`, or `%d%m%Y`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct DatePattern(Vec<Item>);

const MONTHS: [&str; 12] = [
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
];

impl DatePattern {
    /// ISO 8601, section 5.2.2: `2024-01-31`.
    pub(crate) fn iso() -> Self {
        let dash = || Item::Literal("-".to_owned());
        Self(vec![
            Item::Year,
            dash(),
            Item::Month { padded: true },
            dash(),
            Item::Day { padded: true },
        ])
    }

    /// The same with the time of day that a pattern reads: `2024-01-31T14:05`, section 5.4 of ISO
    /// 8601.
    pub(crate) fn iso_with_time(read: &Self) -> Self {
        let colon = || Item::Literal(":".to_owned());
        let mut items = Self::iso().0;
        items.extend([
            Item::Literal("T".to_owned()),
            Item::Hour { of_12: false, padded: true },
            colon(),
            Item::Minute,
        ]);
        if read.0.contains(&Item::Second) {
            items.extend([colon(), Item::Second]);
        }
        Self(items)
    }

    /// Whether a time of day belongs to it.
    pub(crate) fn has_time(&self) -> bool {
        self.0.iter().any(|item| {
            matches!(item, Item::Hour { .. } | Item::Minute | Item::Second | Item::Half)
        })
    }

    /// Reads a pattern.
    ///
    /// # Errors
    /// One sentence on a letter that means nothing.
    pub(crate) fn read(pattern: &str) -> Result<Self, String> {
        let mut items = Vec::new();
        let mut rest = pattern;
        let by_percent = pattern.contains('%');
        while let Some(c) = rest.chars().next() {
            let run = rest.len() - rest.trim_start_matches(c).len();
            let (item, length) = match (c, run) {
                ('%', _) => (percent(rest)?, 2),
                ('Y' | 'M' | 'D' | 'H', _) | ('h' | 'm' | 's', 2) if by_percent => {
                    return Err(format!(
                        "{c} and % letters are two ways to write a pattern, and only one can be \
                        used at a time"
                    ));
                }
                ('Y', 4) => (Item::Year, 4),
                ('Y', 2) => (Item::ShortYear, 2),
                ('M', 2) => (Item::Month { padded: true }, 2),
                ('M', 1) => (Item::Month { padded: false }, 1),
                ('M', 3) => (Item::MonthName { full: false }, 3),
                ('M', 4) => (Item::MonthName { full: true }, 4),
                ('D', 1) if rest[1..].starts_with('o') => (Item::OrdinalDay, 2),
                ('D', 2) => (Item::Day { padded: true }, 2),
                ('D', 1) => (Item::Day { padded: false }, 1),
                ('D', 3) => (Item::DayOfYear, 3),
                ('H', 1 | 2) => (Item::Hour { of_12: false, padded: run == 2 }, run),
                ('h', 1 | 2) => (Item::Hour { of_12: true, padded: run == 2 }, run),
                ('m', 2) => (Item::Minute, 2),
                ('s', 2) => (Item::Second, 2),
                ('a', 1) => (Item::Half, 1),
                ('Y' | 'M' | 'D' | 'H' | 'h' | 'm' | 's' | 'a', _) => {
                    return Err(format!(
                        "{} means nothing in a date; the letters are {LETTERS}",
                        &rest[..run]
                    ));
                }
                ('\'', _) => {
                    let end =
                        rest[1..].find('\'').ok_or("a quote in this pattern is not closed")?;
                    (Item::Literal(rest[1..=end].to_owned()), end + 2)
                }
                (c, _) if c.is_alphabetic() => {
                    return Err(format!(
                        "{c} means nothing in a date; the letters are {LETTERS}, and text stands \
                        in '…'"
                    ));
                }
                (c, _) => (Item::Literal(c.to_string()), c.len_utf8()),
            };
            items.push(item);
            rest = &rest[length..];
        }
        let has = |wanted: fn(&Item) -> bool| items.iter().any(wanted);
        let (of_12, half) = (
            has(|item| matches!(item, Item::Hour { of_12: true, .. })),
            has(|item| *item == Item::Half),
        );
        if of_12 != half {
            return Err(
                "an hour of twelve (h) and its half of the day (a) go together: \"h:mm a\"; of 24 \
                it is \"HH:mm\""
                    .to_owned(),
            );
        }
        if (has(|item| *item == Item::Minute) || has(|item| *item == Item::Second))
            && !has(|item| matches!(item, Item::Hour { .. }))
        {
            return Err(
                "minutes and seconds need an hour: \"HH:mm\"; a month is written MM".to_owned()
            );
        }
        Ok(Self(items))
    }

    /// Whether it says which day is meant: a year with a month and a day, or with the day of the
    /// year.
    pub(crate) fn is_complete(&self) -> bool {
        let has = |wanted: fn(&Item) -> bool| self.0.iter().any(wanted);
        has(|item| matches!(item, Item::Year | Item::ShortYear))
            && (has(|item| *item == Item::DayOfYear)
                || has(|item| matches!(item, Item::Month { .. } | Item::MonthName { .. }))
                    && has(|item| matches!(item, Item::Day { .. } | Item::OrdinalDay)))
    }

    /// The day a text is as a whole, with its time of day, midnight where there is none; `None`
    /// when it is written otherwise or there is no such day or time.
    pub(crate) fn parse(&self, text: &str) -> Option<DateTime> {
        let (mut year, mut month, mut day, mut of_year) = (None, None, None, None);
        let (mut hour, mut minute, mut second, mut afternoon) = (0, 0, 0, None);
        let mut rest = text;
        for item in &self.0 {
            let (figure, length) = match item {
                Item::Year => figures(rest, 4, 4)?,
                Item::Month { padded: false }
                | Item::Day { padded: false }
                | Item::Hour { padded: false, .. } => figures(rest, 1, 2)?,
                Item::ShortYear
                | Item::Month { .. }
                | Item::Day { .. }
                | Item::Hour { .. }
                | Item::Minute
                | Item::Second => figures(rest, 2, 2)?,
                Item::OrdinalDay => {
                    let (day, length) = figures(rest, 1, 2)?;
                    let ending = rest.get(length..length + 2)?;
                    (
                        day,
                        ending
                            .eq_ignore_ascii_case(ordinal_suffix(day.into()))
                            .then_some(length + 2)?,
                    )
                }
                Item::DayOfYear => figures(rest, 3, 3)?,
                Item::MonthName { full } => month_name(rest, *full)?,
                Item::Half => {
                    let half = rest.get(..2)?;
                    (
                        i16::from(half.eq_ignore_ascii_case("pm")),
                        ["am", "pm"]
                            .iter()
                            .any(|known| half.eq_ignore_ascii_case(known))
                            .then_some(2)?,
                    )
                }
                Item::Literal(text) => (0, rest.strip_prefix(text.as_str()).map(|_| text.len())?),
            };
            match item {
                Item::Year => year = Some(figure),
                Item::ShortYear => year = Some(figure + if figure >= 69 { 1900 } else { 2000 }),
                Item::Month { .. } | Item::MonthName { .. } => month = Some(figure),
                Item::Day { .. } | Item::OrdinalDay => day = Some(figure),
                Item::DayOfYear => of_year = Some(figure),
                Item::Hour { .. } => hour = figure,
                Item::Minute => minute = figure,
                Item::Second => second = figure,
                Item::Half => afternoon = Some(figure == 1),
                Item::Literal(_) => {}
            }
            rest = &rest[length..];
        }
        if !rest.is_empty() {
            return None;
        }
        let small = |figure: i16| i8::try_from(figure).ok();
        let date = match (month, day, of_year) {
            (Some(month), Some(day), _) => Date::new(year?, small(month)?, small(day)?).ok()?,
            (_, _, Some(of_year)) => {
                Date::new(year?, 1, 1).ok()?.with().day_of_year(of_year).build().ok()?
            }
            _ => return None,
        };
        let hour = match afternoon {
            Some(_) if !(1..=12).contains(&hour) => return None,
            Some(afternoon) => hour % 12 + if afternoon { 12 } else { 0 },
            None => hour,
        };
        let time = Time::new(small(hour)?, small(minute)?, small(second)?, 0).ok()?;
        (of_year.is_none_or(|of_year| date.day_of_year() == of_year))
            .then(|| date.to_datetime(time))
    }

    /// The day and time written by this pattern.
    pub(crate) fn write(&self, date: DateTime) -> String {
        let month = MONTHS[usize::try_from(date.month() - 1).unwrap_or(0).min(11)];
        let hour_of_12 = (date.hour() + 11) % 12 + 1;
        let item = |item: &Item| match item {
            Item::Year => format!("{:04}", date.year()),
            Item::ShortYear => format!("{:02}", date.year().rem_euclid(100)),
            Item::Month { padded: true } => format!("{:02}", date.month()),
            Item::Month { padded: false } => date.month().to_string(),
            Item::MonthName { full: true } => month.to_owned(),
            Item::MonthName { full: false } => month[..3].to_owned(),
            Item::Day { padded: true } => format!("{:02}", date.day()),
            Item::Day { padded: false } => date.day().to_string(),
            Item::OrdinalDay => format!("{}{}", date.day(), ordinal_suffix(date.day().into())),
            Item::DayOfYear => format!("{:03}", date.day_of_year()),
            Item::Hour { of_12, padded } => {
                let hour = if *of_12 { hour_of_12 } else { date.hour() };
                if *padded { format!("{hour:02}") } else { hour.to_string() }
            }
            Item::Minute => format!("{:02}", date.minute()),
            Item::Second => format!("{:02}", date.second()),
            Item::Half => (if date.hour() < 12 { "am" } else { "pm" }).to_owned(),
            Item::Literal(text) => text.clone(),
        };
        self.0.iter().map(item).collect()
    }
}

/// The letters of patterns, for messages.
const LETTERS: &str = "YYYY YY MM M MMM MMMM DD D Do DDD HH mm ss h a";

fn percent(text: &str) -> Result<Item, String> {
    Ok(match text[1..].chars().next() {
        Some('Y') => Item::Year,
        Some('y') => Item::ShortYear,
        Some('m') => Item::Month { padded: true },
        Some('d') => Item::Day { padded: true },
        Some('b') => Item::MonthName { full: false },
        Some('B') => Item::MonthName { full: true },
        Some('j') => Item::DayOfYear,
        Some('H') => Item::Hour { of_12: false, padded: true },
        Some('I') => Item::Hour { of_12: true, padded: true },
        Some('M') => Item::Minute,
        Some('S') => Item::Second,
        Some('p') => Item::Half,
        Some('%') => Item::Literal("%".to_owned()),
        other => {
            let shown = other.map_or(String::new(), String::from);
            return Err(format!(
                "%{shown} means nothing in a date; the % letters are %d %m %Y %y %b %B %j %H %M %S \
                %I %p"
            ));
        }
    })
}

/// The figure at the head of a text, of at least and at most that many digits.
fn figures(text: &str, least: usize, most: usize) -> Option<(i16, usize)> {
    let digits = text.bytes().take(most).take_while(u8::is_ascii_digit).count();
    if digits < least {
        return None;
    }
    Some((text[..digits].parse().ok()?, digits))
}

fn month_name(text: &str, full: bool) -> Option<(i16, usize)> {
    MONTHS.iter().zip(1..).find_map(|(name, number)| {
        let name = if full { name } else { &name[..3] };
        let head = text.get(..name.len())?;
        head.eq_ignore_ascii_case(name).then_some((number, name.len()))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every day of two centuries, written and read by every way of writing that says which day is
    /// meant.
    #[test]
    fn every_day_is_read_as_it_was_written() {
        let patterns = [
            "YYYY-MM-DD",
            "Do MMMM YYYY",
            "DDMMYYYY",
            "D.M.YYYY",
            "D MMM YYYY",
            "YYYYDDD",
            "%d/%B/%Y",
            "%j-%Y",
            "'on' DD 'of' MMM, YYYY",
        ];
        for pattern in patterns {
            let read = DatePattern::read(pattern).unwrap();
            assert!(read.is_complete(), "{pattern}");
            let mut day = jiff::civil::date(1899, 12, 25);
            while day.year() < 2101 {
                let midnight = day.to_datetime(Time::midnight());
                let written = read.write(midnight);
                assert_eq!(read.parse(&written), Some(midnight), "{pattern}: {written}");
                assert_eq!(
                    read.parse(&written.to_uppercase()).is_some(),
                    !pattern.contains("'on'"),
                    "{pattern}: {written}"
                );
                assert_eq!(read.parse(&format!("{written} ")), None, "{pattern}");
                day = day.tomorrow().unwrap();
            }
        }
    }

    #[test]
    fn days_that_do_not_exist_and_other_ways_of_writing() {
        for (pattern, text, iso) in [
            ("DDMMYYYY", "29022024", "2024-02-29"),
            ("DDMMYYYY", "29022023", ""),
            ("DDMMYYYY", "00012023", ""),
            ("DDMMYYYY", "01132023", ""),
            ("DDMMYYYY", "1012023", ""),
            ("D.M.YYYY", "01.02.2023", "2023-02-01"),
            ("D.M.YYYY", "1.2.23", ""),
            ("D.M.YY", "1.2.68", "2068-02-01"),
            ("D.M.YY", "1.2.69", "1969-02-01"),
            ("D.M.YY", "1.2.00", "2000-02-01"),
            ("YYYYDDD", "2024366", "2024-12-31"),
            ("YYYYDDD", "2023366", ""),
            ("YYYYDDD", "2023000", ""),
            ("DD MMM YYYY", "05 sEp 2023", "2023-09-05"),
            ("DD MMM YYYY", "05 September 2023", ""),
            ("%d %B %Y", "05 SEPTEMBER 2023", "2023-09-05"),
            ("%d%%%m%%%Y", "05%09%2023", "2023-09-05"),
            ("YYYY-MM-DD", "٢٠٢٣-٠١-٠١", ""),
            ("Do MMMM YYYY", "3rd September 2023", "2023-09-03"),
            ("Do MMMM YYYY", "11TH september 2023", "2023-09-11"),
            ("Do MMMM YYYY", "3th September 2023", ""),
            ("Do MMMM YYYY", "3rd Sep 2023", ""),
        ] {
            let date = DatePattern::read(pattern)
                .unwrap()
                .parse(text)
                .map_or(String::new(), |date| DatePattern::iso().write(date));
            assert_eq!(date, iso, "{pattern}: {text}");
        }
        let with_time = |pattern: &str, text: &str| {
            let read = DatePattern::read(pattern).unwrap();
            read.parse(text)
                .map_or(String::new(), |time| DatePattern::iso_with_time(&read).write(time))
        };
        for (pattern, text, iso) in [
            ("YYYY-MM-DD HH:mm", "2023-09-05 14:05", "2023-09-05T14:05"),
            ("YYYY-MM-DD HH:mm", "2023-09-05 24:00", ""),
            ("YYYY-MM-DD HH:mm", "2023-09-05 4:05", ""),
            ("YYYY-MM-DD'T'HH:mm:ss", "2023-09-05T00:00:59", "2023-09-05T00:00:59"),
            ("M/D/YYYY h:mm a", "9/5/2023 12:05 AM", "2023-09-05T00:05"),
            ("M/D/YYYY h:mm a", "9/5/2023 12:05 pm", "2023-09-05T12:05"),
            ("M/D/YYYY h:mm a", "9/5/2023 13:05 pm", ""),
            ("M/D/YYYY h:mm a", "9/5/2023 0:05 am", ""),
            ("%d.%m.%Y %I:%M:%S %p", "05.09.2023 03:05:07 PM", "2023-09-05T15:05:07"),
        ] {
            assert_eq!(with_time(pattern, text), iso, "{pattern}: {text}");
        }
        for wrong in [
            "YYYY-MM-DD h:mm",
            "YYYY-MM-DD HH:mm a",
            "YYYY-MM-DD mm",
            "YYYY-MM-DD HH:mmm",
            "dd.mm.yyyy",
        ] {
            assert!(DatePattern::read(wrong).is_err(), "{wrong}");
        }
        for incomplete in ["YYYY", "DDMM", "MMYYYY", "DDD", "%d.%m", "DD.YYYY"] {
            assert!(!DatePattern::read(incomplete).unwrap().is_complete(), "{incomplete}");
        }
    }
}
