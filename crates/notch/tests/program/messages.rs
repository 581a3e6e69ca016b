//! Everything that stops the work says what, where and what to do.

use insta::assert_snapshot;

use super::support::Folder;

/// What `carve` says of a cut over a table with the columns lot, name, name and one without a name.
fn refused(cut: &str) -> String {
    let folder = Folder::with(&[("t.csv", "lot,name,name,\nFH-1,a,b,c\n")]);
    folder.said(&["carve", "t.csv", cut])
}

#[test]
fn cuts_that_cannot_be_read_or_used() {
    assert_snapshot!(refused(r#"part 2 by "-""#), @r#"
    Stopped: this cut cannot be used.

        part 2 by "-"
             ‾

    A cut is written name = cut; the = is missing here.
    A name with blanks stands in quotes: "lot year" = …
    "#);
    assert_snapshot!(refused("year = {lot} | part 2 by -"), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | part 2 by -
                                 ‾

    Expected SEPARATOR (what stands between two parts: `"text"` and the other separators), but there stands -.
    There is no quote in the cut at all: the shell has probably taken them. Put the whole cut in single quotes.
      bash, zsh:   'year = part 2 by "-"'
      PowerShell:  'year = part 2 by ''-'''
    "#);
    assert_snapshot!(refused(r#"year = {lot} | prt 2 by "-""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | prt 2 by "-"
                       ‾‾‾

    `prt` is not a step.
    The nearest is `part`.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | part 0 by "-""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | part 0 by "-"
                            ‾

    Positions start at 1; there is no position 0.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | part 2 by """#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | part 2 by ""
                                 ‾‾

    An empty text stands everywhere and can be no mark and no separator.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | part 5 of 4 by "-""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | part 5 of 4 by "-"
                                 ‾

    Of 4 parts there is no part 5.
    "#);
    assert_snapshot!(refused("year = {lot} | chars 5..3"), @"
    Stopped: this cut cannot be used.

        year = {lot} | chars 5..3
                             ‾‾‾‾

    5..3 runs backwards.
    For 3 of them from the 5th on: 5 for 3. Otherwise the smaller first: 3..5.
    ");
    assert_snapshot!(refused("year = {lot} | chars 0..3"), @"
    Stopped: this cut cannot be used.

        year = {lot} | chars 0..3
                             ‾‾‾‾

    Positions start at 1; there is no position 0.
    ");
    assert_snapshot!(refused("year = {lot} | chars 1..3 for 4"), @"
    Stopped: this cut cannot be used.

        year = {lot} | chars 1..3 for 4
                                  ‾‾‾

    `for` says how many follow one position, and a range says so already.
    Write chars 5..12 or chars 5 for 8.
    ");
    assert_snapshot!(refused("year = {lot} | first"), @"
    Stopped: this cut cannot be used.

        year = {lot} | first
                            ‾

    Expected COUNT (a whole number from 1), but the cut ends.
    ");
    assert_snapshot!(refused("year = {lot} | first -2"), @"
    Stopped: this cut cannot be used.

        year = {lot} | first -2
                             ‾‾

    A count from 1 is wanted here, not a negative one.
    Without the last ones: drop last 2; only those: last 2.
    ");
    assert_snapshot!(refused("year = {lot} | chars 1-3"), @"
    Stopped: this cut cannot be used.

        year = {lot} | chars 1-3
                             ‾‾‾

    From one place to another is written with two points.
    Write 1..3
    ");
    assert_snapshot!(refused(r#"year = {lot} | date "dd.mm.yyyy""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | date "dd.mm.yyyy"
                            ‾‾‾‾‾‾‾‾‾‾‾‾

    d means nothing in a date; the letters are YYYY YY MM M MMM MMMM DD D Do DDD HH mm ss h a, and text stands in
    '…'.
    Write "DD.MM.YYYY".
    "#);
    assert_snapshot!(refused(r#"year = {lot} | check is "SK" or "LI""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | check is "SK" or "LI"
                                        ‾‾‾‾

    Behind `or` a whole test is wanted, not a text alone.
    One of several texts is written: is in ("SK", "LI").
    "#);
    assert_snapshot!(refused(r#"year = "{lot | after ", "}""#), @r#"
    Stopped: this cut cannot be used.

        year = "{lot | after ", "}"
                ‾

    This brace is not closed.
    The " after `{lot | after` ends the text. Within it write the other quotes: {lot | after ', '}
    "#);
    assert_snapshot!(refused(r#"year = {lot} | pad left 8 with "00""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | pad left 8 with "00"
                                       ‾‾‾‾

    One character is wanted here, and "00" has 2.
    "#);
    assert_snapshot!(refused("year = {lot} | pad lft 8"), @"
    Stopped: this cut cannot be used.

        year = {lot} | pad lft 8
                           ‾‾‾

    Expected `left`, `right` or `both`, but there stands lft.
    The nearest is `left`.
    ");
    assert_snapshot!(refused("year = {lot} | after 2nd"), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | after 2nd
                                ‾

    Expected `last`, TEXT (a text in quotes: `"-"` or `'-'`), `word`, REGEX (a regular expression between slashes,
    with the flags i, s, x if wanted: `/[a-z]+/i`), `any`, `digit`, `letter`, `upper`, `lower`, `space`, `symbol`
    or `character`, but the cut ends.
    There is no quote in the cut at all: the shell has probably taken them. Put the whole cut in single quotes.
      bash, zsh:   'year = part 2 by "-"'
      PowerShell:  'year = part 2 by ''-'''
    "#);
    assert_snapshot!(refused("year = {lot} | before “-”"), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | before “-”
                              ‾

    “ is a typographic quote; a text stands in straight ones: ".
    With straight quotes: year = {lot} | before "-"
    "#);
    assert_snapshot!(refused(r#"year = {lot} | before "\d""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | before "\d"
                               ‾‾

    \d means nothing in a text, which knows \" \' \\ \t \n \u{…}.
    A backslash itself is \\; a regular expression stands between slashes: /\d/.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | before "-"#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | before "-
                              ‾‾

    This text has no closing ".
    Put one after it, or take the one before it out: "-"
    "#);
    assert_snapshot!(refused("year = {lot | first 2"), @"
    Stopped: this cut cannot be used.

        year = {lot | first 2
               ‾‾‾‾‾‾‾‾‾‾‾‾‾‾

    The brace of this column is not closed.
    Write {name}.
    ");
    assert_snapshot!(refused("year = {lot} first 2"), @"
    Stopped: this cut cannot be used.

        year = {lot} first 2
                     ‾‾‾‾‾

    Steps are chained with |, which is missing before `first`.
    Write … | first …
    ");
    assert_snapshot!(refused("year = {lot} | first 2 pad left 3"), @"
    Stopped: this cut cannot be used.

        year = {lot} | first 2 pad left 3
                               ‾‾‾

    Steps are chained with |, which is missing before `pad`.
    Write … | pad …
    ");
    assert_snapshot!(refused("year = {lot} | {name}"), @"
    Stopped: this cut cannot be used.

        year = {lot} | {name}
                       ‾‾‾‾‾‾

    Behind a bar a step is wanted, and {name} is a source.
    A source stands at the head of a chain: {lot} | first 2 else {old_lot} | first 2.
    ");
    assert_snapshot!(refused(r#"year = {lot} | first 2 or "x""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | first 2 or "x"
                               ‾‾

    What to take instead is said with `else`.
    Write else instead of or.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | before "-" or """#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | before "-" or ""
                                     ‾‾

    Behind `or` stands `end` here, for the whole text.
    Anything else to take instead is said with `else`: … else "".
    "#);
    assert_snapshot!(refused(r#"year = "a" if {lot} is "A" or "B""#), @r#"
    Stopped: this cut cannot be used.

        year = "a" if {lot} is "A" or "B"
                                      ‾‾‾

    Behind `or` a whole test is wanted, not a text alone.
    One of several texts is written: is in ("A", "B").
    "#);
    assert_snapshot!(refused(r#"year = "a" if is "A""#), @r#"
    Stopped: this cut cannot be used.

        year = "a" if is "A"
                      ‾‾

    The first test of a condition says what it is about.
    Write if {column} …, or if it … for the text the chain has reached.
    "#);
    assert_snapshot!(refused(r#"year = "a" if {lot} is odd"#), @r#"
    Stopped: this cut cannot be used.

        year = "a" if {lot} is odd
                               ‾‾‾

    Expected `not`, `digits`, `letters`, `upper`, `lower`, `integer`, `email`, `number`, `blank`, TEXT (a text in
    quotes: `"-"` or `'-'`), REGEX (a regular expression between slashes, with the flags i, s, x if wanted:
    `/[a-z]+/i`), `shape`, `date`, `in`, SCHEME (a check-digit scheme: `luhn`, `gtin`, `isbn`, `issn`, `iban`,
    `mod97`, `mod11-2`, `damm`, `verhoeff`) or `unique`, but there stands odd.
    "#);
    assert_snapshot!(refused("year = {lot} | number 0"), @"
    Stopped: this cut cannot be used.

        year = {lot} | number 0
                              ‾

    Counts start at 1; there is no 0th.
    ");
    assert_snapshot!(refused("year = {lot} | match /(/"), @"
    Stopped: this cut cannot be used.

        year = {lot} | match /(/
                             ‾‾‾

    This regular expression cannot be read: unclosed group.
    ");
    assert_snapshot!(refused("year = {lot} | match /a/ group 1"), @"
    Stopped: this cut cannot be used.

        year = {lot} | match /a/ group 1
                                       ‾

    There is no group 1: this regular expression has 0 groups.
    ");
    assert_snapshot!(refused("year = {lot} | match /a/q"), @"
    Stopped: this cut cannot be used.

        year = {lot} | match /a/q
                             ‾‾‾‾

    A regular expression has no flag q; the flags are i, s and x.
    ");
    assert_snapshot!(refused(r#"year = {lot} | replace /(a)/ with "$2""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | replace /(a)/ with "$2"
                                          ‾‾‾‾

    The regular expression has no group 2.
    A dollar sign that is text is written $$.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | date "DD.MM""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | date "DD.MM"
                            ‾‾‾‾‾‾‾

    A date needs a year, a month and a day, or a year and the day of the year.
    For instance "DDMMYYYY".
    "#);
    assert_snapshot!(refused(r#"year = {lot} | date "DD.MM.YYYY hh""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | date "DD.MM.YYYY hh"
                            ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾

    an hour of twelve (h) and its half of the day (a) go together: "h:mm a"; of 24 it is "HH:mm".
    "#);
    assert_snapshot!(refused(r#"year = {lot} | clip 2 ending "...""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | clip 2 ending "..."
                                     ‾‾‾‾‾

    The ending alone has more than 2 characters.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | between "a" and matching ")""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | between "a" and matching ")"
                                                ‾‾‾

    `matching` knows the brackets ( ) [ ] { } < > « », one opened by the first mark and closed by the second.
    Write for instance: between "(" and matching ")".
    "#);
    assert_snapshot!(refused(r#"year = {lot} | number decimal ";""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | number decimal ";"
                                      ‾‾‾

    A decimal sign is "," or "."; `decimal either` takes each number by its own marks.
    "#);
    assert_snapshot!(refused(r#"year = {lot} | trim if it is shape "[x4]""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | trim if it is shape "[x4]"
                                           ‾‾‾‾‾‾

    [x4] is no slot of a shape; slots are [d], [d4], [d3..5], [d+], of the kinds U l L c d s, and [w], [w+], [n],
    [x], [*].
    "#);
    assert_snapshot!(refused("year = {lot} | trim if it value 9..3"), @"
    Stopped: this cut cannot be used.

        year = {lot} | trim if it value 9..3
                                        ‾‾‾‾

    These limits run backwards.
    The smaller number stands first.
    ");
    assert_snapshot!(refused(r#"year = {lot} | trim if it later than "2023-02-30""#), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | trim if it later than "2023-02-30"
                                             ‾‾‾‾‾‾‾‾‾‾‾‾

    An ISO date that exists is wanted here.
    Write year, month, day: "2024-01-31".
    "#);
    assert_snapshot!(refused("year = {lot} | trim if it is in houses"), @r#"
    Stopped: this cut cannot be used.

        year = {lot} | trim if it is in houses
                                        ‾‾‾‾‾‾

    There is no list houses.
    Lists stand in a jig, under [lists]; texts may stand here in brackets: is in ("A", "B").
    "#);
    assert_snapshot!(refused("year = {lot} | keep vowels"), @"
    Stopped: this cut cannot be used.

        year = {lot} | keep vowels
                            ‾‾‾‾‾‾

    Expected KINDS (kinds of characters, with blanks between: `digits`, `letters`, `spaces`, `symbols` or the
    characters themselves in quotes), but there stands vowels.
    ");
    assert_snapshot!(refused("year = ({lot} | first 2"), @"
    Stopped: this cut cannot be used.

        year = ({lot} | first 2
                               ‾

    Expected `|`, `if`, `else`, `then` or `)`, but the cut ends.
    ");
    assert_snapshot!(refused("year = lot | first 2"), @"
    Stopped: this cut cannot be used.

        year = lot | first 2
               ‾‾‾

    `lot` is not a step.
    A column stands in braces: {lot}. `notch words` lists the steps.
    ");
    assert_snapshot!(refused(r#"year = part 2 by "-""#), @r#"
    Stopped: this cut cannot be used.

        year = part 2 by "-"
               ‾‾‾‾‾‾‾‾‾‾‾‾‾

    This cut begins with a step, and no column is given for it to start from.
    Begin with a column, {name} | part 2 by "-", or give one for all cuts: -c name.
    The columns are: lot, name, name, {column 4}.
    "#);
    assert_snapshot!(refused("year = {lott} | first 2"), @"
    Stopped: this cut cannot be used.

        year = {lott} | first 2
               ‾‾‾‾‾‾

    There is no column lott.
    The nearest is {lot}.
    The columns are: lot, name, name, {column 4}.
    ");
    assert_snapshot!(refused("year = {name} | first 2"), @"
    Stopped: this cut cannot be used.

        year = {name} | first 2
               ‾‾‾‾‾‾

    2 columns are called name.
    Take one by its place: {column 2} or {column 3}.
    ");
    assert_snapshot!(refused("year = {column 9} | first 2"), @"
    Stopped: this cut cannot be used.

        year = {column 9} | first 2
               ‾‾‾‾‾‾‾‾‾‾

    There is no column 9; the table has 4.
    The columns are: lot, name, name, {column 4}.
    ");
    assert_snapshot!(refused(r#"year = "{lot" | first 2"#), @r#"
    Stopped: this cut cannot be used.

        year = "{lot" | first 2
                ‾

    This brace is not closed.
    A brace that is text is doubled: {{; a column is {name}.
    "#);
    assert_snapshot!(refused(r#"year = "{lot | frist 2}""#), @r#"
    Stopped: this cut cannot be used.

        year = "{lot | frist 2}"
                       ‾‾‾‾‾

    `frist` is not a step.
    The nearest is `first`.
    "#);
    assert_snapshot!(refused("year = {year} | first 2"), @"
    Stopped: this cut cannot be used.

        year = {year} | first 2
               ‾‾‾‾‾‾

    year is not made yet at this place; a cut may use the cuts above it.
    Put the cut that makes year before this one.
    ");
    assert_snapshot!(refused("lot = {lot} | first 2"), @"
    Stopped: this cut cannot be used.

        lot = {lot} | first 2
        ‾‾‾

    The table has a column lot already, and it stays as it is.
    Choose another name, or say that it is to be replaced: --replace lot, in a jig replace = true.
    ");
    assert_snapshot!(refused(r#"a, b?, c = {lot} | parts by "-""#), @"
    lot,name,name,,a,b,c
    FH-1,a,b,c,FH,,1
    Columns 2 and 3 are both called name; they are {column 2} and {column 3}.
    Column 4 has no name; it is {column 4}.
    1 row read from t.csv, 1 written.
      new column  filled  blank  shapes of its texts, rarest last
      a                1      0  [U2] 1
      b                0      1
      c                1      0  [d] 1
    status 0
    ");
    assert_snapshot!(refused(r#"a, a = {lot} | parts by "-""#), @r#"
    Stopped: this cut cannot be used.

        a, a = {lot} | parts by "-"
           ‾

    a stands twice on the left.
    A piece is skipped with _.
    "#);
    assert_snapshot!(refused("{a} = {lot}"), @"
    Stopped: this cut cannot be used.

        {a} = {lot}
        ‾‾‾

    The name of a new column stands without braces.
    Write name = {column} | step.
    ");
    assert_snapshot!(refused("year = "), @"
    Stopped: this cut cannot be used.

        year = 
               ‾

    A step or a source was expected here, and the cut ends.
    `notch words` lists the steps.
    ");
    assert_snapshot!(refused("year = Žďár | first 2"), @"
    Stopped: this cut cannot be used.

        year = Žďár | first 2
               ‾‾‾‾

    `Žďár` is not a step.
    A column stands in braces: {Žďár}. `notch words` lists the steps.
    ");
    assert_snapshot!(refused("a = {lot} | first 99999999999999999999"), @"
    Stopped: this cut cannot be used.

        a = {lot} | first 99999999999999999999
                          ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾

    No text has that many characters or parts.
    ");
}

#[test]
fn hints_are_said_and_the_work_goes_on() {
    let folder = Folder::with(&[("t.csv", "lot\nFH-1\n")]);
    let cut = "a = {lot} | after 2th \"-\" else last 1 | pad left 3 with \"0\"";
    assert_snapshot!(folder.said(&["carve", "t.csv", cut]), @r#"
    lot,a
    FH-1,001
    Hint: 2th was read as 2nd.
    Hint: `pad left 3 with "0"` works on the last branch alone. For all branches write: … else … then pad left 3 with "0"
    1 row read from t.csv, 1 written.
      new column  filled  blank  shapes of its texts, rarest last
      a                1      0  [d3] 1

    Where a came from:
            0  {lot} | after 2th "-"
      else  1  last 1 | pad left 3 with "0"
            0  (none of them)
    status 0
    "#);
}

#[test]
fn tables_and_files_that_cannot_be_used() {
    let folder = Folder::with(&[
        ("lots.csv", "lot,n\nFH-1,2\n"),
        ("header.csv", "lot,n\n"),
        ("empty.csv", ""),
        ("blank.csv", "\n \n"),
        ("few.csv", "lot,n\nFH-1,2\nFH-2\n"),
        ("many.csv", "lot,n\nFH-1,2,3\n"),
        ("unclosed.csv", "lot,n\nFH-1,2\n\"FH-2,3\nFH-3,4\n"),
        ("ends.csv", "lot,n\nFH-1,2,\nFH-2,3,\n"),
        ("doubled.csv", "lot,n,n,\nFH-1,2,3,4\n"),
        ("headless.csv", "FH-1,2,red\nGR-12,3,blue\n"),
        ("quote.csv", "lot,\"note\nFH-1,ok\nFH-2,ok\n"),
        ("carets.csv", "lot^keeper^box\nFH-1^Moran^3\nFH-2^Ives^4\n"),
    ]);
    folder.write("bytes.csv", b"lot,n\nFH-1,2\nFH-\xE9,3\n");
    folder.write("utf16.csv", b"\xFF\xFEl\0o\0t\0\n\0G\0R\0-\x001\0");
    folder.write("book.xlsx", b"PK\x03\x04...");
    std::fs::create_dir(folder.path("folder")).unwrap();
    let cut = "a = {lot} | first 2";
    assert_snapshot!(folder.said(&["carve", "none.csv", cut]), @"
    Stopped: none.csv cannot be opened: there is no such file.
    Is the name right, and the folder? The path is taken from the folder you are in.
    ");
    assert_snapshot!(folder.said(&["carve", "folder", cut]), @"
    Stopped: folder stands for no file.
    Put a pattern in quotes: 'lots-*.csv', or name a folder with tables.
    ");
    assert_snapshot!(folder.said(&["carve", "empty.csv", cut]), @"
    Stopped: empty.csv is empty.
    A table has a header and rows below it.
    ");
    assert_snapshot!(folder.said(&["carve", "blank.csv", cut]), @"
    Stopped: blank.csv is empty.
    A table has a header and rows below it.
    ");
    assert_snapshot!(folder.said(&["carve", "header.csv", cut]), @"
    lot,n,a
    0 rows read from header.csv, 0 written.
    The table has a header and no rows.
      new column  filled  blank  shapes of its texts, rarest last
      a                0      0
    status 0
    ");
    assert_snapshot!(folder.said(&["carve", "few.csv", cut]), @"
    Stopped: few.csv, line 3: too few fields: the row has 1 field, the header 2.
    Nothing was written. Mend the row, or put the rows that cannot be read into a file of their own: --rejects
    FILE. If the columns are divided otherwise than was found by looking, say how: --separator.
    ");
    assert_snapshot!(folder.said(&["carve", "many.csv", cut]), @"
    Stopped: many.csv, line 2: too many fields: the row has 3 fields, the header 2.
    Nothing was written. Mend the row, or put the rows that cannot be read into a file of their own: --rejects
    FILE. If the columns are divided otherwise than was found by looking, say how: --separator.
    ");
    assert_snapshot!(folder.said(&["carve", "unclosed.csv", cut]), @"
    Stopped: unclosed.csv, line 3: a quote is opened in this row and not closed up to the end of the file.
    Nothing was written. Mend the row, or put the rows that cannot be read into a file of their own: --rejects
    FILE. If the columns are divided otherwise than was found by looking, say how: --separator.
    ");
    assert_snapshot!(folder.said(&["carve", "bytes.csv", cut]), @"
    Stopped: bytes.csv, line 3: the bytes are not UTF-8 text at byte 4 of the row (0xE9).
    Nothing was written. If the text is of another encoding than UTF-8, say which: --encoding windows-1252. Rows
    that cannot be read go into a file of their own with --rejects FILE.
    ");
    assert_snapshot!(folder.said(&["carve", "utf16.csv", cut, "--to", "jsonl"]), @r#"
    {"lot":"GR-1","a":"GR"}
    utf16.csv is read as UTF-16LE.
    1 row read from utf16.csv, 1 written.
      new column  filled  blank  shapes of its texts, rarest last
      a                1      0  [U2] 1
    status 0
    "#);
    assert_snapshot!(folder.said(&["carve", "book.xlsx", cut]), @"
    Stopped: book.xlsx is a workbook that cannot be read: its end is missing.
    Open it in the program that made it and save it anew.
    ");
    assert_snapshot!(folder.said(&["carve", "ends.csv", cut]), @"
    lot,n,,a
    FH-1,2,,FH
    FH-2,3,,FH
    Rows end in a separator; the header is taken to end in a column without a name.
    2 rows read from ends.csv, 2 written.
      new column  filled  blank  shapes of its texts, rarest last
      a                2      0  [U2] 2
    status 0
    ");
    assert_snapshot!(folder.said(&["carve", "doubled.csv", cut]), @"
    lot,n,n,,a
    FH-1,2,3,4,FH
    Columns 2 and 3 are both called n; they are {column 2} and {column 3}.
    Column 4 has no name; it is {column 4}.
    1 row read from doubled.csv, 1 written.
      new column  filled  blank  shapes of its texts, rarest last
      a                1      0  [U2] 1
    status 0
    ");
    assert_snapshot!(folder.said(&["carve", "quote.csv", cut]), @"
    Stopped: quote.csv has a quote in its header, in line 1, that is not closed up to the end of the file.
    Nothing was written. Close the quote or take it out; without a header nothing can be read.
    ");
    assert_snapshot!(folder.said(&["carve", "carets.csv", cut]), @"
    Stopped: this cut cannot be used.

        a = {lot} | first 2
            ‾‾‾‾‾

    There is no column lot.
    The columns are: lot^keeper^box.
    The table came out as one column, and each line has “^” 2 times: --separator '^'.
    ");
    assert_snapshot!(folder.said(&["carve", "quote.csv", cut, "--rejects", "odd.csv"]), @"
    Stopped: quote.csv has a quote in its header, in line 1, that is not closed up to the end of the file.
    Nothing was written. Close the quote or take it out; without a header nothing can be read.
    ");
    assert_snapshot!(folder.said(&["check", "quote.csv", cut]), @"
    Stopped: quote.csv has a quote in its header, in line 1, that is not closed up to the end of the file.
    Nothing was written. Close the quote or take it out; without a header nothing can be read.
    ");
    assert_snapshot!(folder.said(&["carve", "carets.csv", "-c", "lot", "a = first 2"]), @"
    Stopped: There is no column lot.
    The columns are: lot^keeper^box.
    The table came out as one column, and each line has “^” 2 times: --separator '^'.
    ");
    assert_snapshot!(folder.said(&["carve", "lots.csv", "--from", "lines", "--no-header", "a = {line} | first 2"]), @"
    Stopped: lots.csv is read as lines.
    Its one column is called line and has no header: leave --no-header out, and take pieces from {line}.
    ");
    assert_snapshot!(folder.said(&["carve", "headless.csv", "a = {column 1} | first 2"]), @"
    FH-1,2,red,a
    GR-12,3,blue,GR
    The first line looks like the row after it. If it is no header: --no-header.
    1 row read from headless.csv, 1 written.
      new column  filled  blank  shapes of its texts, rarest last
      a                1      0  [U2] 1
    status 0
    ");
    assert_snapshot!(folder.said(&["carve", "lots.csv"]), @r#"
    Stopped: there is no cut, so there is nothing to carve.
    Give one or more after the table: notch carve lots.csv -c lot 'year = part 2 by "-"'
    "#);
    assert_snapshot!(folder.said(&["carve", "lots.csv", "-c", "lt", "a = first 2"]), @"
    Stopped: There is no column lt.
    The nearest is {lot}.
    The columns are: lot, n.
    ");
    assert_snapshot!(folder.said(&["carve", "lots.csv", cut, "-o", "lots.csv"]), @"
    Stopped: the table lots.csv and the output lots.csv are the same file.
    Nothing is ever written over the input or two outputs into one file. Choose another name.
    ");
    assert_snapshot!(folder.said(&["carve", "lots.csv", cut, "-o", "x.csv", "--rejects", "./x.csv"]), @"
    Stopped: the output x.csv and the rejects file ./x.csv are the same file.
    Nothing is ever written over the input or two outputs into one file. Choose another name.
    ");
    folder.write("jig.toml", b"[cuts]\na = '{lot} | first 2'\n");
    assert_snapshot!(folder.said(&["carve", "lots.csv", "-j", "jig.toml", "-o", "jig.toml"]), @"
    Stopped: the jig jig.toml and the output jig.toml are the same file.
    Nothing is ever written over the input or two outputs into one file. Choose another name.
    ");
    assert_snapshot!(folder.said(&["carve", "lots.csv", cut, "-o", "nowhere/x.csv"]), @"
    Stopped: nowhere/x.csv cannot be written: there is no folder nowhere.
    Make the folder first, or name another.
    ");
    assert_snapshot!(folder.said(&["carve", "lots.csv", cut, "-o", "folder"]), @"Stopped: folder cannot be written: it is a folder.");
    assert_snapshot!(folder.said(&["carve", "lots.csv", cut, "--columns", "lot,b"]), @"
    Stopped: --columns: there is no column b.
    The columns are: lot, n, a.
    ");
    assert_snapshot!(folder.said(&["carve", "lots.csv", cut, "--replace", "lot"]), @"Stopped: No cut makes a column lot, so there is nothing to replace it with.");
    assert_snapshot!(folder.said(&["carve", "unclosed.csv", cut, "--rejects", "odd.csv", "--findings", "f.csv"]), @"
    lot,n,a
    FH-1,2,FH
    2 rows read from unclosed.csv, 1 written, 1 rejected.
      new column  filled  blank  shapes of its texts, rarest last
      a                1      0  [U2] 1

    1 finding in 1 row:
      1  (row)  row  a quote is opened in this row and not closed up to the end of the file  first in line 3
    status 0
    ");
    assert_snapshot!(folder.read("odd.csv"), @r#"
    lot,n
    "FH-2,3
    FH-3,4
    "#);
    assert_snapshot!(folder.read("f.csv"), @"
    row,line,column,cut,kind,reason,cell,value,note
    2,3,,,row,a quote is opened in this row and not closed up to the end of the file,,,
    ");
}

/// Characters that turn a line round, start a command of the terminal or do not show are drawn
/// wherever a person reads them.
#[test]
fn nothing_unseen_reaches_the_screen() {
    const TURN: &str = "\u{202e}";
    let (file, other, column, jig) = (
        format!("a{TURN}.csv"),
        format!("a{TURN}2.csv"),
        format!("l{TURN}ot"),
        format!("jig{TURN}.toml"),
    );
    let table = format!("{column},n\nA{TURN}B-1\u{1b}[31m,2\nA\u{ad}B,3\n \u{200b}X-9,4\n");
    let folder = Folder::with(&[
        (&file, &table),
        (&other, &table),
        (
            &jig,
            &format!(
                "title = \"of{TURN}it\"\n[lists]\n\"h{TURN}\" = [\"a{TURN}b\"]\n[columns]\n\"{column}\" = {{ check = 'has no \"{TURN}\"' }}\n[cuts]\n\
                 '\"x{TURN}\"' = '{{{column}}} | after \"{TURN}\"'\n[checks]\n\"a {TURN} check\" = '{{n}} is \"{TURN}\"'\n"
            ),
        ),
    ]);
    let (many, cut) = (
        format!("a{TURN}*.csv"),
        format!("\"x{TURN}\" = {{{column}}} | after \"-\" | check has \"{TURN}\""),
    );
    for args in [
        &["survey", &file][..],
        &["survey", &file, "-c", &column],
        &["survey", &many, "-c", &column],
        &[
            "carve",
            &file,
            &cut,
            "-o",
            &format!("out{TURN}.csv"),
            "--findings",
            &format!("f{TURN}.csv"),
        ],
        &["carve", &many, &cut, "-o", "out.csv"],
        &["carve", &file, &cut, "--preview"],
        &["carve", &file, &cut, "--to", "aligned"],
        &["carve", &file, "-j", &jig, "-o", "out2.csv"],
        &["carve", &format!("none{TURN}.csv"), &cut],
        &["carve", &file, &format!("x = {{l{TURN}t}}")],
        &["carve", &file, &cut, "-o", "."],
        &["check", &file, &cut],
        &["check", &many, "-j", &jig],
        &["compare", &file, "-c", &column, "first 3", &format!("before \"{TURN}\"")],
        &["trace", "-t", &file, &cut],
        &["trace", "-t", &file, "-j", &jig],
        &["jig", "show", &jig],
        &["words", TURN],
    ] {
        let (out, err, _) = folder.run(args, b"");
        let screen = format!("{}{err}", String::from_utf8(out).unwrap());
        let unseen = screen.find(['\u{202e}', '\u{1b}', '\u{ad}', '\u{200b}']);
        assert!(!screen.is_empty() && unseen.is_none(), "{args:?}\n{screen:?}");
    }
}
