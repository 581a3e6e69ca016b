//! PostgreSQL servers: what a query gives, copied out by the server as comma-separated text.

use std::error::Error as _;
use std::io::BufRead;
use std::str::FromStr;
use std::sync::Arc;
use std::sync::mpsc::SyncSender;
use std::time::Duration;

use postgres::config::{Host, SslMode};
use postgres::types::Type;
use postgres::{Client, Config, Error, NoTls};
use rustls::client::danger::{HandshakeSignatureValid, ServerCertVerified, ServerCertVerifier};
use rustls::crypto::CryptoProvider;
use rustls::pki_types::{CertificateDer, ServerName, UnixTime};
use rustls::{ClientConfig, DigitallySignedStruct, RootCertStore, SignatureScheme};
use tokio_postgres_rustls::MakeRustlsConnect;

use super::server::{Login, password, without_end};
use super::{Message, PIECE, Wanted, quoted};
use crate::cells::Kind;
use crate::error::TableError;

/// PostgreSQL is part of this build.
#[allow(clippy::unnecessary_wraps, reason = "where it is not part of it, this is an error")]
pub(super) fn is_built(_name: &str) -> Result<(), TableError> {
    Ok(())
}

/// Runs what is wanted and passes on its rows.
///
/// # Errors
/// Why not, as a clause.
pub(super) fn run(
    url: &str,
    wanted: &Wanted,
    timeout: Duration,
    sender: &SyncSender<Message>,
) -> Result<(), String> {
    let mut client = connected(url, timeout)?;
    // The receiver may be gone: then there is nothing to do.
    if sender.send(Message::Reached).is_err() {
        return Ok(());
    }
    // A table of a schema is called by both.
    let called = |table: &str| table.split('.').map(quoted).collect::<Vec<_>>().join(".");
    let query = wanted.query(|| tables(&mut client, wanted.table.as_deref()), called)?;
    let query = without_end(&query);
    client
        .batch_execute(
            "SET datestyle = 'ISO, YMD'; SET intervalstyle = 'iso_8601'; BEGIN READ ONLY",
        )
        .map_err(|cause| said(&cause))?;
    // The server itself says whether it is one statement.
    let statement = client.prepare(query).map_err(|cause| said(&cause))?;
    if statement.columns().is_empty() {
        return Err("the query gives no rows; tables are only read".to_owned());
    }
    let columns = statement
        .columns()
        .iter()
        .map(|column| (column.name().to_owned(), kind_of(column.type_(), column.type_modifier())));
    let columns: Vec<(String, Kind)> = columns.collect();
    let value = |(n, (_, kind)): (usize, &(String, Kind))| match kind {
        // It would write t and f.
        Kind::Truth => format!("c{n}::text"),
        _ => format!("c{n}"),
    };
    let values: Vec<String> = columns.iter().enumerate().map(value).collect();
    let names: Vec<String> = (0..columns.len()).map(|n| format!("c{n}")).collect();
    // After a comment a line has to end.
    let copy = format!(
        "COPY (SELECT {} FROM ({query}\n) AS q({})) TO STDOUT (FORMAT csv)",
        values.join(", "),
        names.join(", ")
    );
    let mut text = Vec::new();
    if sender.send(Message::Columns(columns)).is_err() {
        return Ok(());
    }
    let mut rows = client.copy_out(&copy).map_err(|cause| said(&cause))?;
    loop {
        // A row, as the server sends it.
        let row = rows.fill_buf().map_err(|cause| {
            let error = cause.get_ref().and_then(|error| error.downcast_ref::<Error>());
            error.map_or_else(|| cause.to_string(), said)
        })?;
        let read = row.len();
        if read == 0 {
            break;
        }
        text.extend_from_slice(row);
        rows.consume(read);
        if text.len() >= PIECE {
            let next = Vec::with_capacity(text.len());
            if sender.send(Message::Text(std::mem::replace(&mut text, next))).is_err() {
                return Ok(());
            }
        }
    }
    let _ = sender.send(Message::Text(text));
    Ok(())
}

/// The tables that can be named: those that are found without their schema by their names alone.
fn tables(client: &mut Client, named: Option<&str>) -> Result<Vec<String>, String> {
    let names = "SELECT CASE WHEN pg_table_is_visible(c.oid) AND NOT $1 THEN c.relname ELSE \
        n.nspname || '.' || c.relname END
        FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
        WHERE c.relkind IN ('r', 'v', 'm', 'p', 'f') AND n.nspname NOT IN ('pg_catalog', \
        'information_schema', 'pg_toast') ORDER BY 1";
    let with_schema = named.is_some_and(|named| named.contains('.'));
    let rows = client.query(names, &[&with_schema]).map_err(|cause| said(&cause))?;
    rows.iter().map(|row| row.try_get(0).map_err(|cause| said(&cause))).collect()
}

fn connected(url: &str, timeout: Duration) -> Result<Client, String> {
    // It is a word of ours only here: everything else there is no difference to.
    let verifies = url.contains("sslmode=verify-full");
    let mut config = Config::from_str(&url.replace("sslmode=verify-full", "sslmode=require"))
        .map_err(|cause| said(&cause))?;
    config
        .application_name("notch")
        .connect_timeout(timeout)
        .options("-c default_transaction_read_only=on");
    if config.get_user().is_none() {
        config.user(
            &std::env::var("PGUSER")
                .or_else(|_| std::env::var("USER"))
                .unwrap_or_else(|_| "postgres".to_owned()),
        );
    }
    let user = config.get_user().unwrap_or_default().to_owned();
    if config.get_password().is_none() {
        let host = match config.get_hosts().first() {
            Some(Host::Tcp(host)) => host.clone(),
            _ => "localhost".to_owned(),
        };
        let port = config.get_ports().first().copied().unwrap_or(5432);
        let login = Login {
            host: &host,
            port,
            database: config.get_dbname().unwrap_or(&user),
            user: &user,
        };
        if let Some(password) = password(&login) {
            config.password(password);
        }
    }
    let client = match config.get_ssl_mode() {
        SslMode::Disable => config.connect(NoTls),
        _ => config.connect(MakeRustlsConnect::new(tls(verifies)?)),
    };
    client.map_err(|cause| said(&cause))
}

/// As PostgreSQL's own clients have it: `require` and `prefer` encrypt, `verify-full` also makes
/// sure who answers, by the certificates that the system trusts (PostgreSQL, SSL Mode
/// Descriptions).
fn tls(verifies: bool) -> Result<ClientConfig, String> {
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    let builder = ClientConfig::builder_with_provider(Arc::clone(&provider))
        .with_safe_default_protocol_versions();
    let builder = builder.map_err(|cause| cause.to_string())?;
    if !verifies {
        let anyone = Arc::new(Anyone(provider));
        return Ok(builder
            .dangerous()
            .with_custom_certificate_verifier(anyone)
            .with_no_client_auth());
    }
    let mut roots = RootCertStore::empty();
    roots.add_parsable_certificates(rustls_native_certs::load_native_certs().certs);
    Ok(builder.with_root_certificates(roots).with_no_client_auth())
}

/// Takes every certificate: what goes over the line is encrypted, whichever server answers.
#[derive(Debug)]
struct Anyone(Arc<CryptoProvider>);

impl ServerCertVerifier for Anyone {
    fn verify_server_cert(
        &self,
        _certificate: &CertificateDer<'_>,
        _between: &[CertificateDer<'_>],
        _name: &ServerName<'_>,
        _response: &[u8],
        _now: UnixTime,
    ) -> Result<ServerCertVerified, rustls::Error> {
        Ok(ServerCertVerified::assertion())
    }

    fn verify_tls12_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, rustls::Error> {
        rustls::crypto::verify_tls12_signature(
            message,
            certificate,
            signed,
            &self.0.signature_verification_algorithms,
        )
    }

    fn verify_tls13_signature(
        &self,
        message: &[u8],
        certificate: &CertificateDer<'_>,
        signed: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, rustls::Error> {
        rustls::crypto::verify_tls13_signature(
            message,
            certificate,
            signed,
            &self.0.signature_verification_algorithms,
        )
    }

    fn supported_verify_schemes(&self) -> Vec<SignatureScheme> {
        self.0.signature_verification_algorithms.supported_schemes()
    }
}

fn kind_of(of: &Type, modifier: i32) -> Kind {
    match *of {
        Type::INT2 | Type::INT4 | Type::INT8 | Type::OID => Kind::Integer,
        Type::FLOAT4 | Type::FLOAT8 => Kind::Number,
        // Four bytes of header, then precision and scale in two bytes each; without them it may
        // have any (PostgreSQL, numeric.c).
        Type::NUMERIC if modifier >= 4 => Kind::Decimal(((modifier - 4) & 0x7FF) as usize),
        Type::NUMERIC => Kind::Number,
        Type::BOOL => Kind::Truth,
        Type::DATE => Kind::Date,
        _ => Kind::Text,
    }
}

/// What the server or the connection to it says, as a clause.
fn said(cause: &Error) -> String {
    let text = match cause.as_db_error() {
        Some(error) => error.message().to_owned(),
        None => match cause.source() {
            Some(source) => format!(
                "{cause}: {}",
                source.to_string().split(" (os error").next().unwrap_or_default()
            ),
            None => cause.to_string(),
        },
    };
    text.trim_end_matches('.').to_owned()
}
