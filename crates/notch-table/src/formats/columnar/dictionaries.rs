//! Dictionaries in a file of Arrow, which may grow but never change: those of the batches become
//! one.

use std::collections::HashMap;
use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::{Array, ArrayRef, Int64Array, RecordBatch, UInt32Array, make_array};
use arrow_row::{RowConverter, SortField};
use arrow_schema::{ArrowError, DataType, SchemaRef};

/// The dictionaries of the columns that have one.
pub(super) struct Dictionaries(Vec<Option<Dictionary>>);

/// All values so far, each once, in the order in which they came.
struct Dictionary {
    values: Option<ArrayRef>,
    /// Where each stands, by its bytes.
    places: HashMap<Box<[u8]>, i64>,
    converter: RowConverter,
    /// The last dictionary that came, and where its values stand here: the next rows mostly have
    /// the same.
    last: Option<(ArrayRef, Vec<i64>)>,
}

impl Dictionaries {
    /// Of columns whose values can be told from one another.
    pub(super) fn new(schema: &SchemaRef) -> Self {
        let dictionary = |data_type: &DataType| match data_type {
            DataType::Dictionary(_, values) => {
                let converter = RowConverter::new(vec![SortField::new((**values).clone())]).ok()?;
                Some(Dictionary { values: None, places: HashMap::new(), converter, last: None })
            }
            _ => None,
        };
        Self(schema.fields().iter().map(|field| dictionary(field.data_type())).collect())
    }

    /// The same rows with the dictionaries as they are now.
    ///
    /// # Errors
    /// A column has more different values than its keys can count.
    pub(super) fn unite(&mut self, batch: RecordBatch) -> Result<RecordBatch, ArrowError> {
        if self.0.iter().all(Option::is_none) {
            return Ok(batch);
        }
        let columns =
            batch.columns().iter().zip(&mut self.0).map(|(column, dictionary)| match dictionary {
                Some(dictionary) => dictionary.unite(column),
                None => Ok(ArrayRef::clone(column)),
            });
        let columns = columns.collect::<Result<Vec<_>, _>>()?;
        RecordBatch::try_new(batch.schema(), columns)
    }
}

impl Dictionary {
    fn unite(&mut self, column: &ArrayRef) -> Result<ArrayRef, ArrowError> {
        let theirs = column.as_any_dictionary();
        let places = match self.last.take() {
            Some((known, places)) if Arc::ptr_eq(&known, theirs.values()) => places,
            _ => self.learn(theirs.values())?,
        };
        // Without any value there are no keys: nothing is there in any row.
        let keys = if places.is_empty() { vec![0; column.len()] } else { theirs.normalized_keys() };
        let keys = keys
            .iter()
            .enumerate()
            .map(|(row, key)| places.get(*key).copied().filter(|_| column.is_valid(row)));
        let strict = arrow_cast::CastOptions { safe: false, ..arrow_cast::CastOptions::default() };
        let (keys, key_type) = (keys.collect::<Int64Array>(), theirs.keys().data_type());
        let keys = arrow_cast::cast_with_options(&keys, key_type, &strict).map_err(|_| {
            let count = self.places.len();
            ArrowError::CastError(format!(
                "a column whose values are numbered as {key_type} has {count} different ones, too \
                many for that; a Parquet file or a stream (.arrows) holds them"
            ))
        })?;
        let values = self.values.iter().map(|values| values.to_data()).collect();
        let data = keys
            .to_data()
            .into_builder()
            .data_type(column.data_type().clone())
            .child_data(values)
            .build()?;
        self.last = Some((ArrayRef::clone(theirs.values()), places));
        Ok(make_array(data))
    }

    /// Takes up the values of another dictionary; returns where each stands here.
    fn learn(&mut self, theirs: &ArrayRef) -> Result<Vec<i64>, ArrowError> {
        let rows = self.converter.convert_columns(std::slice::from_ref(theirs))?;
        let mut unseen = Vec::new();
        let mut places = Vec::with_capacity(theirs.len());
        for (n, row) in rows.iter().enumerate() {
            let next = self.places.len() as i64;
            let place = *self.places.entry(row.as_ref().into()).or_insert(next);
            if place == next {
                unseen.push(n as u32);
            }
            places.push(place);
        }
        self.values = Some(match self.values.take() {
            Some(values) if unseen.is_empty() => values,
            values => {
                let unseen = arrow_select::take::take(theirs, &UInt32Array::from(unseen), None)?;
                match values {
                    Some(values) => arrow_select::concat::concat(&[&values, &unseen])?,
                    None => unseen,
                }
            }
        });
        Ok(places)
    }
}
