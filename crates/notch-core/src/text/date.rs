//! Dates by a pattern of letters.

use jiff::civil::Date;

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
    /// The day of the year, three figures.
    DayOfYear,
    Literal(String),
}

/// How a date is written: `DDMMYYYY`, or `%d%m%Y`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct DatePattern(Vec<Item>);

const MONTHS: [&str; 12] =
    ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];

impl DatePattern {
    /// ISO 8601, section 5.2.2: `2024-01-31`.
    pub(crate) fn iso() -> Self {
        let dash = || Item::Literal("-".to_owned());
        Self(vec![Item::Year, dash(), Item::Month { padded: true }, dash(), Item::Day { padded: true }])
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
                ('Y' | 'M' | 'D', _) if by_percent => {
                    return Err(format!("{c} and % letters are two ways to write a pattern, and only one can be used at a time"));
                }
                ('Y', 4) => (Item::Year, 4),
                ('Y', 2) => (Item::ShortYear, 2),
                ('M', 2) => (Item::Month { padded: true }, 2),
                ('M', 1) => (Item::Month { padded: false }, 1),
                ('M', 3) => (Item::MonthName { full: false }, 3),
                ('D', 2) => (Item::Day { padded: true }, 2),
                ('D', 1) => (Item::Day { padded: false }, 1),
                ('D', 3) => (Item::DayOfYear, 3),
                ('Y' | 'M' | 'D', _) => {
                    return Err(format!("{} means nothing in a date; the letters are YYYY YY MM M MMM DD D DDD", &rest[..run]));
                }
                ('\'', _) => {
                    let end = rest[1..].find('\'').ok_or("a quote in this pattern is not closed")?;
                    (Item::Literal(rest[1..=end].to_owned()), end + 2)
                }
                (c, _) if c.is_alphabetic() => {
                    return Err(format!("{c} means nothing in a date; the letters are YYYY YY MM M MMM DD D DDD, and text stands in '…'"));
                }
                (c, _) => (Item::Literal(c.to_string()), c.len_utf8()),
            };
            items.push(item);
            rest = &rest[length..];
        }
        Ok(Self(items))
    }

    /// Whether it says which day is meant: a year with a month and a day, or with the day of the year.
    pub(crate) fn is_complete(&self) -> bool {
        let has = |wanted: fn(&Item) -> bool| self.0.iter().any(wanted);
        has(|item| matches!(item, Item::Year | Item::ShortYear))
            && (has(|item| *item == Item::DayOfYear)
                || has(|item| matches!(item, Item::Month { .. } | Item::MonthName { .. })) && has(|item| matches!(item, Item::Day { .. })))
    }

    /// The date a text is as a whole; `None` when it is written otherwise or there is no such day.
    pub(crate) fn parse(&self, text: &str) -> Option<Date> {
        let (mut year, mut month, mut day, mut of_year) = (None, None, None, None);
        let mut rest = text;
        for item in &self.0 {
            let (figure, length) = match item {
                Item::Year => figures(rest, 4, 4)?,
                Item::ShortYear | Item::Month { padded: true } | Item::Day { padded: true } => figures(rest, 2, 2)?,
                Item::Month { padded: false } | Item::Day { padded: false } => figures(rest, 1, 2)?,
                Item::DayOfYear => figures(rest, 3, 3)?,
                Item::MonthName { full } => month_name(rest, *full)?,
                Item::Literal(text) => (0, rest.strip_prefix(text.as_str()).map(|_| text.len())?),
            };
            match item {
                Item::Year => year = Some(figure),
                Item::ShortYear => year = Some(figure + if figure >= 69 { 1900 } else { 2000 }),
                Item::Month { .. } | Item::MonthName { .. } => month = Some(figure),
                Item::Day { .. } => day = Some(figure),
                Item::DayOfYear => of_year = Some(figure),
                Item::Literal(_) => {}
            }
            rest = &rest[length..];
        }
        if !rest.is_empty() {
            return None;
        }
        let date = match (month, day, of_year) {
            (Some(month), Some(day), _) => Date::new(year?, i8::try_from(month).ok()?, i8::try_from(day).ok()?).ok()?,
            (_, _, Some(of_year)) => Date::new(year?, 1, 1).ok()?.with().day_of_year(of_year).build().ok()?,
            _ => return None,
        };
        (of_year.is_none_or(|of_year| date.day_of_year() == of_year)).then_some(date)
    }

    /// The date written by this pattern.
    pub(crate) fn write(&self, date: Date) -> String {
        let month = MONTHS[usize::try_from(date.month() - 1).unwrap_or(0).min(11)];
        let item = |item: &Item| match item {
            Item::Year => format!("{:04}", date.year()),
            Item::ShortYear => format!("{:02}", date.year().rem_euclid(100)),
            Item::Month { padded: true } => format!("{:02}", date.month()),
            Item::Month { padded: false } => date.month().to_string(),
            Item::MonthName { full: true } => month.to_owned(),
            Item::MonthName { full: false } => month[..3].to_owned(),
            Item::Day { padded: true } => format!("{:02}", date.day()),
            Item::Day { padded: false } => date.day().to_string(),
            Item::DayOfYear => format!("{:03}", date.day_of_year()),
            Item::Literal(text) => text.clone(),
        };
        self.0.iter().map(item).collect()
    }
}

fn percent(text: &str) -> Result<Item, String> {
    Ok(match text[1..].chars().next() {
        Some('Y') => Item::Year,
        Some('y') => Item::ShortYear,
        Some('m') => Item::Month { padded: true },
        Some('d') => Item::Day { padded: true },
        Some('b') => Item::MonthName { full: false },
        Some('B') => Item::MonthName { full: true },
        Some('j') => Item::DayOfYear,
        Some('%') => Item::Literal("%".to_owned()),
        other => {
            let shown = other.map_or(String::new(), String::from);
            return Err(format!("%{shown} means nothing in a date; the % letters are %d %m %Y %y %b %B %j"));
        }
    })
}

/// The figure at the head of a text, of at least and at most so many digits.
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

    /// Every day of two centuries, written and read by every way of writing that says which day is meant.
    #[test]
    fn every_day_is_read_as_it_was_written() {
        let patterns = ["YYYY-MM-DD", "DDMMYYYY", "D.M.YYYY", "D MMM YYYY", "YYYYDDD", "%d/%B/%Y", "%j-%Y", "'on' DD 'of' MMM, YYYY"];
        for pattern in patterns {
            let read = DatePattern::read(pattern).unwrap();
            assert!(read.is_complete(), "{pattern}");
            let mut day = jiff::civil::date(1899, 12, 25);
            while day.year() < 2101 {
                let written = read.write(day);
                assert_eq!(read.parse(&written), Some(day), "{pattern}: {written}");
                assert_eq!(read.parse(&written.to_uppercase()).is_some(), !pattern.contains("'on'"), "{pattern}: {written}");
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
        ] {
            let date = DatePattern::read(pattern).unwrap().parse(text).map_or(String::new(), |date| DatePattern::iso().write(date));
            assert_eq!(date, iso, "{pattern}: {text}");
        }
        for incomplete in ["YYYY", "DDMM", "MMYYYY", "DDD", "%d.%m", "DD.YYYY"] {
            assert!(!DatePattern::read(incomplete).unwrap().is_complete(), "{incomplete}");
        }
    }
}
