//! What is counted while conditions are asked, for hints about cuts that were probably meant
//! otherwise.

use super::cuts::Compiler;
use crate::language::{Arg, ArgValue, WordNode};
use crate::program::Watch;
use crate::program::{Subject, Watched};
use crate::text::What;

impl Compiler<'_> {
    /// What is counted of the answers of a test after `if`, for hints.
    pub(super) fn watched(&mut self, subject: &Subject, test: &WordNode) -> Vec<Watched> {
        let Some((source, column)) = self.asking.clone() else { return Vec::new() };
        let mut watched = Vec::new();
        let mark = test.args.iter().find_map(|arg| match &arg.value {
            ArgValue::Mark(mark) => Some(mark),
            _ => None,
        });
        // `has "ref"`, where a word was probably meant. One letter or digit is looked for as such.
        if let ("has", Some(mark)) = (test.word.name, mark)
            && let [Arg { value: ArgValue::Text(text), .. }] = mark.what.args.as_slice()
            && mark.what.word.name == "\"text\""
            && !mark.which_said
            && text.chars().count() > 1
            && text.starts_with(char::is_alphanumeric)
            && text.ends_with(char::is_alphanumeric)
        {
            let word = What::Word(Box::new(What::text(text)));
            let spelled = format!(
                "{}{}",
                mark.spelled,
                if mark.ignoring_case { " ignoring case" } else { "" }
            );
            let event = self.watches.add(self.cuts_so_far, Watch::Word { text: spelled });
            watched.push(Watched::Word {
                word: if mark.ignoring_case { word.ignoring_case() } else { word },
                event,
            });
        }
        let first = test.args.first().map(|arg| &arg.value);
        let is_about_piece = match test.word.name {
            "is shape" | "is /regex/" | "has" => !matches!(first, Some(ArgValue::Given(true))),
            "starts with" => matches!(first, Some(ArgValue::Chosen(0))),
            _ => false,
        };
        if let (true, Subject::It, Some(source)) = (is_about_piece, subject, source) {
            let test = self.quote(&test.span);
            let event = self.watches.add(self.cuts_so_far, Watch::Piece { test, column });
            watched.push(Watched::Piece { source, event });
        }
        watched
    }
}
