//! A file of typed columns in its format: written, and read again where a column has become wider.

use std::fs::File;
use std::io;
use std::sync::Arc;

use arrow_array::{ArrayRef, RecordBatch};
use arrow_ipc::writer::{DictionaryHandling, FileWriter, IpcWriteOptions, StreamWriter};
use arrow_schema::{ArrowError, SchemaRef};
use parquet::arrow::arrow_reader::ParquetRecordBatchReaderBuilder;

use super::dictionaries::Dictionaries;
use super::parquet_out::{ParquetOut, Stay};
use super::read::said;
use crate::format::Columnar;
use crate::output::NewFile;

/// How many rows are made columns together.
pub(super) const TOGETHER: usize = 16 * 1024;

/// The file in its format.
pub(super) enum Writer {
    Parquet(Box<ParquetOut>),
    File(Box<FileWriter<NewFile>>, Dictionaries),
    Stream(Box<StreamWriter<NewFile>>),
}

impl Writer {
    pub(super) fn new(
        file: NewFile,
        columnar: Columnar,
        schema: &SchemaRef,
        threads: usize,
        stay: Option<Stay>,
    ) -> Result<Self, String> {
        let failed = |cause: &dyn std::fmt::Display| said(cause);
        Ok(match columnar {
            Columnar::Parquet => {
                let file =
                    ParquetOut::new(file, schema, threads).map_err(|cause| failed(&cause))?;
                Writer::Parquet(Box::new(match stay {
                    Some(stay) => file.with(stay),
                    None => file,
                }))
            }
            Columnar::File => {
                let options =
                    IpcWriteOptions::default().with_dictionary_handling(DictionaryHandling::Delta);
                let file = FileWriter::try_new_with_options(file, schema, options)
                    .map_err(|cause| failed(&cause))?;
                Writer::File(Box::new(file), Dictionaries::new(schema))
            }
            Columnar::Stream => Writer::Stream(Box::new(
                StreamWriter::try_new(file, schema).map_err(|cause| failed(&cause))?,
            )),
        })
    }

    /// Writes rows with all their columns.
    pub(super) fn write(
        &mut self,
        schema: &SchemaRef,
        columns: Vec<ArrayRef>,
    ) -> Result<(), String> {
        let batch =
            RecordBatch::try_new(Arc::clone(schema), columns).map_err(|cause| said(&cause))?;
        match self {
            Writer::Parquet(writer) => writer.write_all(&batch).map_err(|cause| said(&cause)),
            Writer::File(writer, dictionaries) => dictionaries
                .unite(batch)
                .and_then(|batch| writer.write(&batch))
                .map_err(|cause| said(&cause)),
            Writer::Stream(writer) => writer.write(&batch).map_err(|cause| said(&cause)),
        }
    }

    /// The file, where some columns stay verbatim in the one they were read from.
    pub(super) fn with_some_that_stay(&mut self) -> Option<&mut ParquetOut> {
        match self {
            Writer::Parquet(writer) if writer.has_some_that_stay() => Some(writer),
            _ => None,
        }
    }

    /// Writes what is left; returns the file.
    pub(super) fn finish(self) -> Result<NewFile, String> {
        match self {
            Writer::Parquet(writer) => writer.finish().map_err(|cause| said(&cause)),
            Writer::File(mut writer, _) => {
                writer.finish().and_then(|()| writer.into_inner()).map_err(|cause| said(&cause))
            }
            Writer::Stream(mut writer) => {
                writer.finish().and_then(|()| writer.into_inner()).map_err(|cause| said(&cause))
            }
        }
    }
}

/// Reads a file again that has just been written.
pub(super) fn again(
    file: File,
    columnar: Columnar,
) -> Result<Box<dyn Iterator<Item = Result<RecordBatch, ArrowError>>>, String> {
    Ok(match columnar {
        Columnar::Parquet => {
            let reader = ParquetRecordBatchReaderBuilder::try_new(file)
                .and_then(|builder| builder.with_batch_size(TOGETHER).build());
            Box::new(reader.map_err(|cause| said(&cause))?)
        }
        Columnar::File => Box::new(
            arrow_ipc::reader::FileReader::try_new_buffered(file, None)
                .map_err(|cause| said(&cause))?,
        ),
        Columnar::Stream => Box::new(
            arrow_ipc::reader::StreamReader::try_new(io::BufReader::new(file), None)
                .map_err(|cause| said(&cause))?,
        ),
    })
}
