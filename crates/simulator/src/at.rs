//! The stand-in gateway as a modem: the standard's questions answered over TCP (3GPP TS 27.007), by the simulator's own
//! arithmetic.

use crate::lock::{Lock, bands_of};
use crate::serve::{Fault, StandIn};
use open_beacon_core::model::{Carrier, ConnectionMode, Reading, Technology};
use std::sync::Arc;
use std::time::Duration;
use tokio::io::{AsyncRead, AsyncReadExt, AsyncWrite, AsyncWriteExt};
use tokio::net::TcpListener;

/// How long a slow modem takes for one answer.
const SLOW: Duration = Duration::from_millis(700);

/// Serves until stopped.
///
/// # Errors
/// Where no connection can be taken any more.
pub async fn serve_at(listener: TcpListener, stand_in: Arc<StandIn>) -> std::io::Result<()> {
    loop {
        let (stream, _) = listener.accept().await?;
        tokio::spawn(converse(stream, stand_in.clone()));
    }
}

/// Answers on a line until it ends.
///
/// # Errors
/// Where the line breaks off.
pub async fn converse(
    mut stream: impl AsyncRead + AsyncWrite + Unpin,
    stand_in: Arc<StandIn>,
) -> std::io::Result<()> {
    let mut heard = String::new();
    loop {
        let mut chunk = [0u8; 256];
        let count = stream.read(&mut chunk).await?;
        if count == 0 {
            return Ok(());
        }
        heard.push_str(&String::from_utf8_lossy(&chunk[..count]));
        while let Some(end) = heard.find('\r') {
            let command: String = heard.drain(..=end).collect();
            if let Some(answer) = answer(command.trim(), &stand_in) {
                // Modems echo what they were told.
                let whole = format!("{}\r\r\n{answer}\r\n", command.trim());
                let whole = match stand_in.fault() {
                    Fault::Announces => announced(&whole, stand_in.told().len()),
                    _ => whole,
                };
                match stand_in.fault() {
                    Fault::Half => return stream.write_all(&whole.as_bytes()[..whole.len() / 2]).await,
                    // A round of questions stays within a reader's patience, if only just.
                    Fault::Slow => tokio::time::sleep(SLOW).await,
                    _ => {}
                }
                stream.write_all(whole.as_bytes()).await?;
            }
        }
    }
}

/// An answer with what a modem says by itself before, between and behind.
fn announced(whole: &str, at: usize) -> String {
    let news = ["+CEREG: 1", "+CESQ: 99,99,255,255,1,2", "+CSCON: 1", "RING"][at % 4];
    match whole.split_once("\r\r\n") {
        Some((echo, answer)) => format!("{echo}\r\r\n{news}\r\n{answer}{news}\r\n"),
        None => whole.to_owned(),
    }
}

/// `None` where it keeps silent.
fn answer(command: &str, stand_in: &StandIn) -> Option<String> {
    let fault = stand_in.fault();
    match fault {
        Fault::Hung | Fault::Reboot => return None,
        Fault::LoginPage => return Some("HTTP/1.0 400 Bad Request".into()),
        Fault::WrongType if command == "AT+CESQ" => {
            return Some("+CESQ: 99,99,255,255,strong,40\r\n\r\nOK".into());
        }
        _ => {}
    }
    if let Some(told) = command.strip_prefix("AT+BEACONLOCK=") {
        let taken = lock_told(told).is_some_and(|wanted| stand_in.set_lock(wanted));
        return Some(if taken { "OK" } else { "ERROR" }.into());
    }
    let reading = stand_in.reading();
    let line = match command {
        "AT" => String::new(),
        "AT+CESQ" => cesq(&reading),
        "AT+COPS?" => match access(reading.mode) {
            Some(act) => format!("+COPS: 0,0,\"Hulder, mobil\",{act}\r\n\r\n"),
            None => "+COPS: 0\r\n\r\n".into(),
        },
        "AT+CEREG?" => registration("+CEREG", first(&reading, Technology::Lte), 8),
        "AT+C5GREG?" => registration("+C5GREG", first(&reading, Technology::Nr), 10),
        // What a maker might have added: RSRP in tenths, SINR, band.
        "AT+BEACON?" => match first(&reading, Technology::Lte) {
            Some(one) => format!(
                "+BEACON: \"LTE\",{:.0},{},B{}\r\n\r\n",
                one.rsrp_dbm.unwrap_or_default() * 10.0,
                one.sinr_db.unwrap_or_default(),
                one.band.unwrap_or_default()
            ),
            None => String::new(),
        },
        _ => return Some("ERROR".into()),
    };
    Some(format!("{line}OK"))
}

/// `0` takes a lock away; else the way in quotes, and two words of an LTE and of an NR mask in hexadecimal.
fn lock_told(told: &str) -> Option<Lock> {
    if told == "0" {
        return Some(Lock::default());
    }
    let fields: Vec<&str> = told.split(',').map(|field| field.trim().trim_matches('"')).collect();
    let [way, words @ ..] = &fields[..] else { return None };
    let words: Vec<u64> =
        words.iter().map(|word| u64::from_str_radix(word, 16).ok()).collect::<Option<_>>()?;
    let [lte_low, lte_high, nr_low, nr_high] = words[..] else { return None };
    let access = serde_json::from_value(serde_json::Value::from(*way)).ok()?;
    Some(Lock { access, lte: bands_of(lte_low, lte_high), nr: bands_of(nr_low, nr_high) })
}

fn first(reading: &Reading, technology: Technology) -> Option<&Carrier> {
    reading.carriers.iter().find(|one| one.technology == technology)
}

fn access(mode: ConnectionMode) -> Option<u8> {
    match mode {
        ConnectionMode::Lte => Some(7),
        ConnectionMode::Sa => Some(11),
        ConnectionMode::Nsa => Some(13),
        _ => None,
    }
}

/// Codes of TS 36.133 tables 9.1.4-1 and 9.1.7-1, and TS 38.133 tables 10.1.6.1-1, 10.1.11.1-1, 10.1.16.1-1.
fn cesq(reading: &Reading) -> String {
    let code = |value: Option<f64>, zero_below: f64, per_db: f64, last: f64| match value {
        Some(value) => format!("{:.0}", ((value - zero_below) * per_db + 1.0).floor().clamp(0.0, last)),
        None => "255".into(),
    };
    let (lte, nr) = (first(reading, Technology::Lte), first(reading, Technology::Nr));
    format!(
        "+CESQ: 99,99,255,255,{},{},{},{},{}\r\n\r\n",
        code(lte.and_then(|one| one.rsrq_db), -19.5, 2.0, 34.0),
        code(lte.and_then(|one| one.rsrp_dbm), -140.0, 1.0, 97.0),
        code(nr.and_then(|one| one.rsrq_db), -43.0, 2.0, 127.0),
        code(nr.and_then(|one| one.rsrp_dbm), -156.0, 1.0, 126.0),
        code(nr.and_then(|one| one.sinr_db), -23.0, 2.0, 127.0),
    )
}

fn registration(command: &str, carrier: Option<&Carrier>, digits: usize) -> String {
    match carrier {
        Some(one) => {
            let identity =
                one.cell_identity.map_or_else(String::new, |identity| format!("\"{identity:0digits$X}\""));
            format!("{command}: 2,1,\"1A2B\",{identity}\r\n\r\n")
        }
        None => format!("{command}: 2,0\r\n\r\n"),
    }
}
