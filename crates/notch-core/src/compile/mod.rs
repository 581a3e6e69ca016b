//! Syntax trees and the columns of a table → a plan ([`crate::program`]). Words build their steps
//! (`words/`).

mod columns;
mod conditions;
mod cuts;
mod fast_path;
mod resolve;
mod rules;
mod templates;
mod watched;
