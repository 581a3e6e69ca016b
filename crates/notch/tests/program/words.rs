use super::support::Folder;

/// `docs/language.md` is written from the table of words: `cargo run -- words --page > docs/language.md`.
#[test]
fn the_page_of_the_language_is_current() {
    let (page, _, _) = Folder::with(&[]).run(&["words", "--page"], b"");
    let written = include_str!("../../../../docs/language.md");
    assert!(page == written.as_bytes(), "docs/language.md is out of date; write it anew: cargo run -- words --page > docs/language.md");
}

#[test]
fn words_can_be_looked_up() {
    let mut folder = Folder::with(&[]);
    for args in [&["words", "part"][..], &["words", "last"], &["words", "prt"], &["words", "trim", "--json"]] {
        folder.show(args);
    }
    insta::assert_snapshot!(folder.screen);
}
