//! Syntax trees and the columns of a table → a plan ([`crate::program`]). Words build their steps
//! ([`crate::words`]).

mod columns;
mod cuts;
mod rules;
mod templates;
mod watched;
