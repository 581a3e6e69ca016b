//! Cuts that are refused: what is underlined, and what is said.

use keen_notch_core::{Plan, PlanError, PlanOptions, parse_assignment};

/// The place and the sentence of the error a cut makes; for a table with the columns `lot`, `n` and
/// `n`, and a list `houses`.
fn refusal(cut: &str) -> (String, String) {
    let error = match parse_assignment(cut) {
        Err(error) => error,
        Ok(assignment) => {
            let columns = ["lot", "n", "n"].map(str::to_owned);
            let lists = [(
                "houses".to_owned(),
                std::sync::Arc::new(keen_notch_core::List::of_values(["FH"])),
            )]
            .into();
            let options = PlanOptions { lists, ..PlanOptions::default() };
            match Plan::compile(&[assignment], &columns, &options) {
                Err(PlanError::Cut(_, error)) => error,
                Err(other) => panic!("{cut}: {other}"),
                Ok(_) => return (String::new(), "it is not refused".to_owned()),
            }
        }
    };
    (cut[error.span.clone()].to_owned(), format!("{} {}", error.message, error.remedies.join(" ")))
}

#[test]
fn what_is_wrong_is_underlined_and_named() {
    let mut wrong = Vec::new();
    for (cut, place, said) in [
        // The frame.
        ("", "", "name of a new column"),
        ("x", "", "= is missing"),
        ("x = ", "", "step or a source was expected"),
        ("= {lot}", "=", "name of a new column"),
        ("x y = {lot}", "y", "= is missing"),
        ("\"\" = {lot}", "\"\"", "needs a name"),
        ("x, = {lot}", "=", "name of a new column"),
        ("x, x = {lot} | parts by \"-\"", "x", "stands twice"),
        ("x?, y, z? = {lot} | parts by \"-\"", "z", "names that may be blank stand together"),
        ("x = {lot} |", "", "the cut ends"),
        ("x = {lot} | | trim", "|", "Two bars stand one after the other"),
        ("x = {lot} trim", "trim", "chained with |"),
        ("x = {lot} | trim trim", "trim", "chained with |"),
        ("x = {lot} | lot", "lot", "`lot` is not a step"),
        ("x = {lot} | tirm", "tirm", "nearest is `trim`"),
        ("x = {lot} | \"a\"", "\"a\"", "takes nothing of the text"),
        ("x = {lot} | \"{nn}\"", "nn", "no column nn"),
        ("x = {lot} | \"{frist 2}\"", "frist 2", "no column frist 2"),
        ("x = {lot} | \"{first}\"", "", "Expected COUNT"),
        ("x = \"FH/{it}\"", "it", "no column it"),
        ("x = {it} | first 2", "{it}", "after a bar"),
        ("x = {lot} | ({it} | first 2)", "{it}", "no column it"),
        ("x = {lot} | (first 2", "", "`)`"),
        ("x = {lot} | ()", ")", "step or a source"),
        (
            "x = {lot} | first 2 if it is digits | upper else \"?\"",
            "|",
            "Write {lot} | first 2 | upper if it is digits.",
        ),
        (
            "x = \"-{lot | number}\" if {lot} starts with \"(\" else number",
            "number",
            "else {lot} | number",
        ),
        ("x = ({lot} | first 2) | upper else last 2", "last 2", "else {name} | last 2"),
        ("x = {lot} | number decimal \";\"", "\";\"", "decimal either"),
        ("x = {lot} | decimals -1", "-1", "0 to 100 decimals"),
        ("x = {lot} | date \"YYYY-MM-DD\" to \"HH:mm\"", "\"HH:mm\"", "No time of day is read"),
        ("x = {lot} | {n}", "{n}", "is a source"),
        ("x = {lot} else", "", "step or a source"),
        ("x = {lot} then", "", "step or a source"),
        ("x = {lot} then {n}", "{n}", "step or a source"),
        ("x = ({lot}", "", "`)`"),
        ("x = {lot})", ")", "end of the cut"),
        ("x = list {lot}", "{lot}", "`(`"),
        ("x = list ({lot}", "", "`)`"),
        ("x = trim", "trim", "no column is given"),
        ("x = {lot} | trim or \"x\"", "or", "said with `else`"),
        // Checks.
        ("x = {lot} | check is digits if {lot} has \"-\"", "if", "only in some rows with `when`"),
        ("x = {lot} then check is digits if it is digits", "if", "only in some rows with `when`"),
        ("x = {lot} | check", "", "`is`, `has`"),
        ("x = {lot} | check is digts", "digts", "nearest is `digits`"),
        ("x = {lot} | check is digits saying", "", "TEXT"),
        ("x = {lot} | check is digits when", "", "`is`, `has`"),
        ("x = {lot} | check is unique", "is unique", "only [columns] and [checks]"),
        ("x = {lot} | check is lunh", "lunh", "SCHEME"),
        ("x = {lot} | check digit of mod11", "mod11", "SCHEME"),
        ("x = {lot} | check digit of mod11 -2", "mod11", "SCHEME"),
        ("x = {lot} | check is in hauses", "hauses", "nearest is houses"),
        ("x = {lot} | look up in houses", "houses", "has one column"),
        ("x = {lot} | check is \"A\" or \"B\"", "\"B\"", "is in"),
        ("x = {lot} | check is \"A\" else \"B\" | check", "", "`is`, `has`"),
        // Columns.
        ("x = {lto}", "{lto}", "nearest is {lot}"),
        ("x = {m}", "{m}", "no column m"),
        ("x = {n}", "{n}", "2 columns are called n"),
        ("x = {column 4}", "{column 4}", "no column 4; the table has 3"),
        ("x = {column 0}", "{column 0}", "counted from 1"),
        ("x = {}", "{}", "name was expected between the braces"),
        ("x = {lot", "{lot", "not closed"),
        ("x = {\"lot\"", "{\"lot\"", "not closed"),
        ("x = {x}", "{x}", "not made yet"),
        ("lot = {lot}", "lot", "column lot already"),
        ("n = {lot}", "n", "2 columns of the table"),
        // Texts and templates.
        ("x = \"a", "\"a", "no closing \""),
        ("x = 'a", "'a", "no closing '"),
        ("x = \"\\q\"", "\\q", "means nothing in a text"),
        ("x = \"\\u{110000}\"", "\\u", "means nothing in a text"),
        ("x = \"{lot\"", "{", "not closed"),
        ("x = \"lot}\"", "}", "closes nothing"),
        ("x = \"{}\"", "", "name was expected"),
        ("x = \"{lot | frist 2}\"", "frist", "nearest is `first`"),
        ("x = \"{m}\"", "m", "no column m"),
        ("x = {lot} | before “-”", "“", "typographic quote"),
        ("x = {lot} | before ‘-’", "‘", "typographic quote"),
        // Counts, positions, ranges.
        ("x = {lot} | first", "", "COUNT"),
        ("x = {lot} | first 0", "0", "start at 1"),
        ("x = {lot} | first -1", "-1", "not a negative one"),
        ("x = {lot} | first 2.5", "2.5", "COUNT"),
        ("x = {lot} | first \"2\"", "\"2\"", "COUNT"),
        ("x = {lot} | chars 0", "0", "no position 0"),
        ("x = {lot} | chars 0..3", "0..3", "no position 0"),
        ("x = {lot} | chars 5..3", "5..3", "5 for 3"),
        ("x = {lot} | chars -2..-4", "-2..-4", "-4..-2"),
        ("x = {lot} | chars ..", "..", "RANGE"),
        ("x = {lot} | chars 1..2 for 3", "for", "a range says so already"),
        ("x = {lot} | drop 2", "2", "`first`, `last`"),
        ("x = {lot} | drop leading 2nd \"a\"", "2nd \"a\"", "leave out which one"),
        ("x = {lot} | bytes 3..1", "3..1", "runs backwards"),
        // Marks and parts.
        ("x = {lot} | after", "", "MARK"),
        ("x = {lot} | after \"\"", "\"\"", "empty text"),
        ("x = {lot} | after word \"\"", "\"\"", "empty text"),
        ("x = {lot} | after any of \"\"", "\"\"", "empty text"),
        ("x = {lot} | after 0th \"a\"", "0th", "counted from 1"),
        ("x = {lot} | after 2 \"a\"", "2", "MARK"),
        ("x = {lot} | after \"a\" or end", "end", "stands `start` here"),
        ("x = {lot} | before \"a\" or \"\"", "\"\"", "said with `else`"),
        ("x = {lot} | between \"a\"", "", "`and`"),
        ("x = {lot} | between \"a\" and matching \"b\"", "\"b\"", "knows the brackets"),
        ("x = {lot} | between \"[\" and matching \")\"", "\")\"", "knows the brackets"),
        ("x = {lot} | count of last \"a\"", "last \"a\"", "leave out which one"),
        ("x = {lot} | part by \"-\"", "by", "PICK"),
        ("x = {lot} | part 0 by \"-\"", "0", "no position 0"),
        ("x = {lot} | part 2 of 0 by \"-\"", "0", "start at 1"),
        ("x = {lot} | part 3 of 2 by \"-\"", "2", "no part 3"),
        ("x = {lot} | part -3 of 2 by \"-\"", "2", "no part -3"),
        ("x = {lot} | part 2 by \"\"", "\"\"", "empty text"),
        ("x = {lot} | part 2 by widths 2,0", "0", "start at 1"),
        ("x = {lot} | part 2", "", "`by`"),
        ("x = {lot} | word 0", "0", "no 0th"),
        ("x = {lot} | block 1 of symbols", "symbols", "`digits` or `letters`"),
        ("x = {lot} | number 0", "0", "no 0th"),
        ("x = {lot} | number decimal \";\"", "\";\"", "decimal sign"),
        // Regular expressions.
        ("x = {lot} | match /a", "/a", "no closing /"),
        ("x = {lot} | match \"a\"", "\"a\"", "REGEX"),
        ("x = {lot} | match /(/", "/(/", "unclosed group"),
        ("x = {lot} | match /(?=a)/", "/(?=a)/", "look-around"),
        ("x = {lot} | match /a/m", "/a/m", "no flag m"),
        ("x = {lot} | match /(a)/ group 2", "2", "no group 2"),
        ("x = {lot} | match /(a)/ group 0", "0", "start at 1"),
        ("x = {lot} | match /(a)/ group y", "y", "no group called y"),
        ("x = {lot} | groups /a/", "/a/", "has no group"),
        ("x = {lot} | replace /(a)/ with \"$2\"", "\"$2\"", "no group 2"),
        ("x = {lot} | replace /(a)/ with \"${y}\"", "\"${y}\"", "no group y"),
        // Tidying.
        ("x = {lot} | pad left 3 with \"\"", "\"\"", "the text is empty"),
        ("x = {lot} | pad left 3 with \"ab\"", "\"ab\"", "has 2"),
        ("x = {lot} | pad 3", "3", "`left`, `right` or `both`"),
        ("x = {lot} | clip 2 ending \"...\"", "\"...\"", "more than 2"),
        ("x = {lot} | keep", "", "KINDS"),
        ("x = {lot} | keep \"\"", "\"\"", "holds no characters"),
        ("x = {lot} | date \"MMYYYY\"", "\"MMYYYY\"", "needs a year"),
        ("x = {lot} | date \"DD.MM.YYYY h\"", "\"DD.MM.YYYY h\"", "go together"),
        ("x = {lot} | date \"DD.MM.YYYY q\"", "\"DD.MM.YYYY q\"", "q means nothing"),
        ("x = {lot} | date \"YYYYY\"", "\"YYYYY\"", "YYYYY means nothing"),
        ("x = {lot} | date \"%dMM%Y\"", "\"%dMM%Y\"", "only one can be used"),
        ("x = {lot} | date \"%Q\"", "\"%Q\"", "%Q means nothing"),
        ("x = {lot} | as money", "money", "`text`"),
        // Conditions.
        ("x = {lot} if", "", "what it is about"),
        ("x = {lot} if is digits", "is", "what it is about"),
        ("x = {lot} if {lot}", "", "`is`"),
        ("x = {lot} if {lot} is", "", "`digits`"),
        ("x = {lot} if {lot} are digits", "are", "`is`"),
        ("x = {lot} if {lot} is \"A\" or \"B\"", "\"B\"", "is in (\"A\", \"B\")"),
        ("x = {lot} if ({lot} is digits", "", "`)`"),
        ("x = {lot} if {lot} is in house", "house", "nearest is houses"),
        ("x = {lot} if {lot} is in (\"A\"", "", "`)`"),
        ("x = {lot} if {lot} is shape \"[q]\"", "\"[q]\"", "no slot of a shape"),
        ("x = {lot} if {lot} is shape \"[d\"", "\"[d\"", "not closed"),
        ("x = {lot} if {lot} is shape \"[d5..3]\"", "\"[d5..3]\"", "no slot of a shape"),
        ("x = {lot} if {lot} starts with 2nd \"a\"", "2nd \"a\"", "makes no difference"),
        ("x = {lot} if {lot} has exactly 0 \"a\"", "0", "start at 1"),
        ("x = {lot} if {lot} length 3..1", "3..1", "runs backwards"),
        ("x = {lot} if {lot} length -1", "-1", "no negative number"),
        ("x = {lot} if {lot} value 9..1", "9..1", "run backwards"),
        ("x = {lot} if {lot} value big", "big", "LIMITS"),
        ("x = {lot} if {lot} later than \"2023-02-29\"", "\"2023-02-29\"", "ISO date that exists"),
        ("x = {lot} if {lot} same as \"a\"", "\"a\"", "COLUMN"),
        ("x = {lot} if {lot} same as {m}", "{m}", "no column m"),
    ] {
        let (at, message) = refusal(cut);
        if at != place || !message.contains(said) {
            wrong.push(format!(
                "{cut}\n    underlined {at:?}, not {place:?}; said {message:?}, not {said:?}"
            ));
        }
    }
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}

/// Brackets and templates in each other cost neither the stack nor long minutes.
#[test]
fn deep_nesting_is_refused() {
    for (open, close) in [("(", ")"), ("list (", ")"), ("{lot} if (", ")"), ("not ", "")] {
        let head = if close.is_empty() { "{lot} if " } else { "" };
        let cut = format!("x = {head}{}{{lot}}{}", open.repeat(400), close.repeat(400));
        let (_, message) = refusal(&cut);
        assert!(message.contains("too deep") || message.contains("too many"), "{open}: {message}");
    }
}

/// What is worth saying about a cut that works all the same.
#[test]
fn hints() {
    let hints = |cut: &str| {
        parse_assignment(cut).map(|assignment| assignment.hints.join(" ")).unwrap_or_default()
    };
    for (cut, said) in [
        ("x = {lot} | after 1th \"-\"", "1th was read as 1st"),
        ("x = {lot} | after 11th \"-\"", ""),
        ("x = {lot} | after 22th \"-\"", "22th was read as 22nd"),
        ("x = {lot} | first 2 else last 2 | upper", "`upper` works on the last branch alone"),
        ("x = {lot} | first 2 else last 2 | trim | pad left 3", "then trim | pad left 3"),
        ("x = {lot} | first 2 | upper else last 2 | upper", ""),
        ("x = {lot} | first 2 else last 2 then upper", ""),
        ("x = {lot} | first 2 | upper", ""),
        ("x = {lot} | first 2 else \"\"", ""),
        (
            "x = {lot} | trim | part 2 by \"-\" else part 2 by \"/\"",
            "{lot} | trim | (part 2 by \"-\" else part 2 by \"/\")",
        ),
        (
            "x = trim | upper | first 2 if it has \"A\" else last 2",
            "trim | upper | (first 2 if it has \"A\" else last 2)",
        ),
        (
            "x = {lot} | trim | first 2 else {lot} | last 2 else \"none\"",
            "{lot} | trim | (first 2 else last 2 else \"none\")",
        ),
        ("x = {lot} | trim | first 2 else \"none\"", ""),
        ("x = {lot} | trim | first 2 else {n} | last 2", ""),
        ("x = {lot} | trim | first 2 else trim | last 2", ""),
        ("x = {lot} | trim else last 2", ""),
        ("x = {lot} | between 1st \"-\" and 2nd \"-\"", "between 1st \"-\" and \"-\""),
        ("x = {lot} | between \"-\" and 3rd \"-\"", "between \"-\" and 2nd \"-\""),
        ("x = {lot} | between \"-\" and \"-\"", ""),
        ("x = {lot} | between 2nd \"-\" and 1st \"-\"", ""),
        ("x = {lot} | between \"-\" and 2nd \"/\"", ""),
    ] {
        let hint = hints(cut);
        assert!(
            if said.is_empty() { hint.is_empty() } else { hint.contains(said) },
            "{cut}: {hint:?}, not {said:?}"
        );
    }
}

/// What is typed from habit is answered with our form, arguments filled in.
#[test]
fn words_of_other_programs() {
    for (cut, place, remedy) in [
        ("left({lot}, 3)", "left", "{lot} | first 3"),
        ("LEFT(lot, 3)", "LEFT", "{lot} | first 3"),
        ("{lot} | left 3", "left", "written first 3"),
        ("{lot} | strip", "strip", "written trim"),
        ("left(trim({lot}), 3)", "left", "{lot} | trim | first 3"),
        ("mid({lot}, 2, 3)", "mid", "{lot} | chars 2 for 3"),
        ("split_part({lot}, \"-\", 2)", "split_part", "{lot} | part 2 by \"-\""),
        ("find(\"-\", {lot})", "find", "{lot} | position of \"-\""),
        ("substitute({lot}, \"a\", \"b\")", "substitute", "{lot} | replace \"a\" with \"b\""),
        ("upper({lot})", "upper(", "{lot} | upper"),
        ("replace({lot}, \"a\", \"b\")", "replace(", "{lot} | replace \"a\" with \"b\""),
        ("pad({lot})", "pad(", "{lot} | pad (left"),
        ("concat({lot}, \"-\", {lot})", "concat", "\"{lot}-{lot}\""),
        ("{lot} & \"-\" & {lot}", "&", "\"{lot}-{lot}\""),
        ("{lot} || \"x\"", "|", "\"{lot}x\""),
        ("coalesce({lot}, \"none\")", "coalesce", "{lot} else \"none\""),
        ("{lot} | default \"none\"", "default", "written else \"none\""),
        ("iif({lot} = \"a\", \"x\", \"y\")", "iif", "\"x\" if {lot} is \"a\" else \"y\""),
        (
            "if {lot} is \"a\" then {lot} | first 2 else \"y\"",
            "if",
            "{lot} | first 2 if {lot} is \"a\" else \"y\"",
        ),
        ("{lot} if {lot} contains \"a\"", "contains", "… has \"a\""),
        ("{lot} if {lot} begins with \"a\"", "begins with", "… starts with \"a\""),
        ("{lot} if {lot} = \"a\"", "=", "… is \"a\""),
        ("{lot} if {lot} != \"a\"", "!=", "… is not \"a\""),
        ("{lot} if {lot} >= 5", ">=", "… value >= 5"),
        ("{lot} if {lot} in (\"a\", \"b\")", "in", "… is in (\"a\", \"b\")"),
        ("{lot} if {lot} between 1 and 5", "between", "… value 1..5"),
        ("{lot} if {lot} is empty", "empty", "… is blank"),
        ("{lot} | contains \"a\"", "contains", "if {column} has \"a\""),
        ("{lot} | chars 1-3", "1-3", "Write 1..3"),
        ("{lot} | first -3", "-3", "drop last 3"),
        ("{lot} | date \"dd.mm.yyyy\"", "\"dd.mm.yyyy\"", "Write \"DD.MM.YYYY\""),
        ("{lot} | date \"yyyy-MM-dd HH:mm\"", "\"yyyy-MM-dd HH:mm\"", "Write \"YYYY-MM-DD HH:mm\""),
    ] {
        let (underlined, said) = refusal(&format!("x = {cut}"));
        assert!(underlined == place && said.contains(remedy), "{cut}: {underlined:?}: {said}");
    }
    for habit in keen_notch_core::HABITS {
        assert!(habit.ours().is_some(), "{habit:?} is no habit of a word");
        let shadowed = habit
            .typed
            .iter()
            .find(|typed| keen_notch_core::words().any(|word| word.name == **typed));
        assert!(shadowed.is_none_or(|typed| habit.is_test || *typed == "reverse"), "{habit:?}");
    }
}

/// A word that cannot stand where it stands is underlined, and what was probably meant is said.
#[test]
fn what_cannot_stand_there_is_answered_with_what_can() {
    let mut wrong = Vec::new();
    for (cut, place, remedy) in [
        ("part 2 by kinds", "kinds", "The nearest is `kind`."),
        ("part 2 by spacs", "spacs", "The nearest is `spaces`."),
        ("before digits", "digits", "The nearest is `digit`."),
        ("after wrod \"ref\"", "wrod", "The nearest is `word`."),
        ("keep digit", "digit", "The nearest is `digits`."),
        ("keep alnum", "alnum", "Here it is written `letters digits`."),
        ("check is lun", "lun", "The nearest is `luhn`."),
        ("check digit of isb", "isb", "The nearest is `isbn`."),
        ("check is digit", "digit", "The nearest is `digits`."),
        ("check is numeric", "numeric", "Here it is written `digits`."),
        ("check is upercase", "upercase", "Here it is written `upper`."),
        ("check valid email", "valid", "Here it is written `is`."),
        ("as int", "int", "Here it is written `integer`."),
        ("first word", "word", "The first word is `word 1`."),
        ("last two", "two", "Write 2."),
        ("part two by \"-\"", "two", "Write 2."),
        ("chars first 3", "first", "The first ones stand without chars: first 3."),
        ("after dash", "dash", "Write \"-\"."),
        ("parts by comma", "comma", "Write \",\"."),
        ("pad left 8 with zero", "zero", "Write \"0\"."),
        ("number decimal comma", "comma", "Write \",\"."),
        ("between brackets", "brackets", "Write between \"(\" and \")\"."),
        ("date iso", "iso", "Write \"YYYY-MM-DD\"."),
        ("match \"[A-Z]+/\"", "\"[A-Z]+/\"", "Write it between slashes: /[A-Z]+\\//."),
        ("match [A-Z]+ | lower", "[", "Write it between slashes: /[A-Z]+/."),
        ("part 2 of \"-\"", "\"-\"", "What divides is said with `by`: by \"-\"."),
        ("replace \"-\" \"/\"", "\"/\"", "Write `with` before it: with \"/\""),
        ("replace \"-\" by \"/\"", "by", "Write `with` instead of `by`."),
        ("between \"-\" \"/\"", "\"/\"", "Write `and` before it: and \"/\""),
        ("look up genera", "genera", "Write `in` before it: in genera"),
        ("check lot = \"x\"", "lot", "A column stands in braces: {lot}."),
        ("pad 8 with \"0\"", "8", "Say on which side first: left, right or both."),
        (
            "pad left \"0\" 8",
            "\"0\"",
            "The length comes first, the character after it: left 8 with \"0\".",
        ),
        (
            "upper case",
            "case",
            "The step before it is complete; another one stands after a bar: … | …",
        ),
        (
            "first 2 > upper",
            ">",
            "The step before it is complete; another one stands after a bar: … | …",
        ),
        ("first 2 | | upper", "|", "Between two steps stands one bar."),
        ("to upper", "to", "Leave it out: upper."),
        ("before \"-", "\"-", "Put one after it, or take the one before it out: \"-\""),
        ("regex \"[0-9]+\"", "regex", "Here it is written match /[0-9]+/"),
        // What is like nothing that may stand there is not guessed at.
        ("before foo", "foo", ""),
        ("check is bar", "bar", ""),
        ("keep vowels", "vowels", ""),
    ] {
        let error = parse_assignment(&format!("x = {{lot}} | {cut}")).unwrap_err();
        let (underlined, said) =
            (&format!("x = {{lot}} | {cut}")[error.span.clone()], error.remedies.join(" "));
        if underlined != place || said != remedy {
            wrong.push(format!("{cut}: {underlined}, not {place}; {said}, not {remedy}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
