//! A modem that speaks the standard's commands (3GPP TS 27.007) over TCP or a serial line: `+CESQ` (clause 8.69), `+COPS?` (7.3), `+CEREG?`
//! (10.1.22), `+C5GREG?` (10.1.47), and `+CSQ` (8.5) where a modem knows no `+CESQ`. Readings ask questions only; what is set
//! are band locks by commands that the user gave, when the user starts them.

mod exchange;
mod reads;

use crate::http::DriverError;
use exchange::{Answered, ONE_QUESTION, ask, lines_of};
use open_beacon_domain::metrics::{CodeKind, decode, flag_oddities};
use open_beacon_domain::model::{Carrier, CarrierRole, ConnectionMode, ModemRead, Reading, Technology};
use open_beacon_outbound::Transport;
use reads::read_more;
use std::time::Duration;
use tokio::io::{AsyncRead, AsyncWrite};
use tokio::net::TcpStream;
use tokio_serial::SerialPortBuilderExt;

const TIMEOUT: Duration = Duration::from_secs(5);

/// How the modem is reached.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Line {
    Tcp(String),
    Serial { path: String, baud: u32 },
}

trait Wire: AsyncRead + AsyncWrite + Send + Unpin + std::fmt::Debug {}
impl<T: AsyncRead + AsyncWrite + Send + Unpin + std::fmt::Debug> Wire for T {}

/// Whether an address is a modem's: `tcp://…` or `serial:…`.
pub fn is_modem(address: &str) -> bool {
    AtDriver::for_address(address, &[]).is_some()
}

/// Reads one modem. Holds one connection and never has two commands under way.
#[derive(Debug)]
pub struct AtDriver {
    line: Line,
    reads: Vec<ModemRead>,
    transport: Transport,
    stream: tokio::sync::Mutex<Option<Box<dyn Wire>>>,
}

impl AtDriver {
    /// A driver for a modem's address, `tcp://host:port` or `serial:/dev/…?baud=115200`; none for other addresses.
    pub fn for_address(address: &str, reads: &[ModemRead]) -> Option<Self> {
        let line = if let Some(modem) = address.strip_prefix("tcp://") {
            Line::Tcp(modem.trim_end_matches('/').to_owned())
        } else {
            let device = address.strip_prefix("serial:")?;
            let (path, baud) = device.split_once("?baud=").unwrap_or((device, "115200"));
            Line::Serial { path: path.to_owned(), baud: baud.parse().unwrap_or(115_200) }
        };
        let (reads, transport) = (reads.to_vec(), Transport::Network);
        Some(Self { line, reads, transport, stream: tokio::sync::Mutex::new(None) })
    }

    /// The same over something else than the network.
    #[must_use]
    pub fn over(mut self, transport: &Transport) -> Self {
        self.transport = transport.clone();
        self
    }

    /// Asks once all round.
    ///
    /// # Errors
    /// [`DriverError`]: unreachable, or answering something that the standard does not know.
    pub async fn read(&self) -> Result<Reading, DriverError> {
        let answers = self.ask().await?;
        let mut reading = read_answers(&answers)?;
        read_more(&self.reads, &answers.more, &mut reading)?;
        Ok(reading)
    }

    /// Asks once all round; with the reading, what the modem said.
    ///
    /// # Errors
    /// As [`Self::read`]; what was said stands in the error then.
    pub async fn read_with_words(&self) -> Result<(Reading, String), DriverError> {
        let answers = self.ask().await?;
        let standard = [&answers.cesq, &answers.csq, &answers.cops, &answers.cereg, &answers.c5greg];
        let named = ["+CESQ", "+CSQ", "+COPS", "+CEREG", "+C5GREG"].iter().zip(standard);
        let lines =
            named.filter_map(|(name, answer)| answer.as_ref().map(|answer| format!("{name}: {answer}")));
        let said = lines.chain(answers.more.iter().flatten().cloned()).collect::<Vec<_>>().join("\n");
        let mut reading = read_answers(&answers)?;
        read_more(&self.reads, &answers.more, &mut reading)?;
        Ok((reading, said))
    }

    /// Sends commands that set something, in order; each must be answered with OK.
    ///
    /// # Errors
    /// [`DriverError`]; which command was refused.
    pub async fn set(&self, commands: &[String]) -> Result<(), DriverError> {
        let mut kept = self.stream.lock().await;
        let told = tokio::time::timeout(TIMEOUT, async {
            let mut stream = match kept.take() {
                Some(stream) => stream,
                None => self.connect().await?,
            };
            for command in commands {
                match lines_of(&mut *stream, command, None, TIMEOUT).await? {
                    Answered::Well(_) => {}
                    Answered::Refused => {
                        *kept = Some(stream);
                        return Err(nonsense("it refused the lock", command));
                    }
                    // Whether it took it nobody knows; an answer that comes late must not be taken for another's.
                    Answered::Silent => return Err(silent()),
                }
            }
            *kept = Some(stream);
            Ok(())
        });
        told.await.map_err(|_| silent())?
    }

    async fn ask(&self) -> Result<Answers, DriverError> {
        let mut kept = self.stream.lock().await;
        let asked = tokio::time::timeout(TIMEOUT, async {
            let mut stream = match kept.take() {
                Some(stream) => stream,
                None => self.connect().await?,
            };
            let answers = ask_all(&mut stream, &self.reads).await?;
            Ok((stream, answers))
        });
        let (stream, answers) = asked.await.map_err(|_| silent())??;
        // A connection that answered is kept; any other is dropped with what may still come on it.
        *kept = Some(stream);
        Ok(answers)
    }

    async fn connect(&self) -> Result<Box<dyn Wire>, DriverError> {
        let nobody = || DriverError::Unreachable("nothing answers at this address".into());
        match (&self.line, &self.transport) {
            (Line::Tcp(address), Transport::InProcess(devices)) => {
                devices.connect(address).map(|line| Box::new(line) as Box<dyn Wire>).ok_or_else(nobody)
            }
            (Line::Tcp(address), Transport::Network) => {
                connect(address).await?.map(|line| Box::new(line) as Box<dyn Wire>).ok_or_else(nobody)
            }
            (Line::Serial { path, baud }, _) => match tokio_serial::new(path, *baud).open_native_async() {
                Ok(port) => Ok(Box::new(port)),
                Err(error) => Err(DriverError::Unreachable(format!(
                    "the serial device {path} cannot be opened: {error}"
                ))),
            },
        }
    }
}

/// What the modem said to each question; `None` where it knows the command not.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Answers {
    pub cesq: Option<String>,
    pub csq: Option<String>,
    pub cops: Option<String>,
    pub cereg: Option<String>,
    pub c5greg: Option<String>,
    /// Lines of the answers to the reads that a user gave, in their order.
    pub more: Vec<Vec<String>>,
}

async fn ask_all(stream: &mut dyn Wire, reads: &[ModemRead]) -> Result<Answers, DriverError> {
    let cesq = ask(stream, "AT+CESQ").await?;
    let csq = if cesq.is_none() { ask(stream, "AT+CSQ").await? } else { None };
    let mut answers = Answers {
        cesq,
        csq,
        cops: ask(stream, "AT+COPS?").await?,
        cereg: ask(stream, "AT+CEREG?").await?,
        c5greg: ask(stream, "AT+C5GREG?").await?,
        more: Vec::new(),
    };
    for read in reads {
        let named = read.answer.split_once(':').map(|(name, _)| name);
        answers.more.push(lines_of(stream, &read.command, named, ONE_QUESTION).await?.lines());
    }
    Ok(answers)
}

fn silent() -> DriverError {
    DriverError::Unreachable("it did not answer within 5 seconds".into())
}

fn nonsense(problem: &str, said: &str) -> DriverError {
    crate::http::nonsense(problem.to_owned(), said)
}

/// Turns the answers into a reading, strictly: a field that is no code of its kind is an error that names it.
///
/// # Errors
/// [`DriverError::Nonsense`].
pub fn read_answers(answers: &Answers) -> Result<Reading, DriverError> {
    let mut lte = Carrier::empty(Technology::Lte, CarrierRole::Primary);
    let mut nr = Carrier::empty(Technology::Nr, CarrierRole::Primary);
    if let Some(text) = &answers.cesq {
        let fields: Vec<&str> = text.split(',').map(str::trim).collect();
        // Six fields before NR came into the standard, nine since.
        if fields.len() != 6 && fields.len() != 9 {
            return Err(nonsense("+CESQ has six or nine fields", text));
        }
        let code = |at: usize, kind| shown("+CESQ", kind, fields.get(at).copied());
        lte.rsrq_db = code(4, CodeKind::Rsrq)?;
        lte.rsrp_dbm = code(5, CodeKind::Rsrp)?;
        nr.rsrq_db = code(6, CodeKind::SsRsrq)?;
        nr.rsrp_dbm = code(7, CodeKind::SsRsrp)?;
        nr.sinr_db = code(8, CodeKind::SsSinr)?;
    } else if let Some(text) = &answers.csq {
        lte.rssi_dbm = shown("+CSQ", CodeKind::CsqRssi, text.split(',').map(str::trim).next())?;
    }
    let act = answers.cops.as_deref().map(access_technology).transpose()?.flatten();
    lte.cell_identity = registered(answers.cereg.as_deref(), "+CEREG", 28)?;
    nr.cell_identity = registered(answers.c5greg.as_deref(), "+C5GREG", 36)?;
    let has = |one: &Carrier| one.rsrp_dbm.is_some() || one.rssi_dbm.is_some() || one.cell_identity.is_some();
    let (has_lte, has_nr) = (has(&lte), has(&nr));
    let mode = match (act, has_lte, has_nr) {
        // Access technologies of +COPS: 7 E-UTRAN, 11 NR on 5GCN, 12 NG-RAN, 13 E-UTRA with NR beside it.
        (Some(13), ..) | (Some(7), true, true) => ConnectionMode::Nsa,
        (Some(7), ..) => ConnectionMode::Lte,
        (Some(11 | 12), ..) => ConnectionMode::Sa,
        (_, false, false) => ConnectionMode::NoService,
        _ => ConnectionMode::Unknown,
    };
    if mode == ConnectionMode::Nsa {
        lte.role = CarrierRole::Anchor;
    }
    let mut carriers: Vec<Carrier> =
        [(lte, has_lte), (nr, has_nr)].into_iter().filter(|(_, has)| *has).map(|(one, _)| one).collect();
    carriers.iter_mut().for_each(flag_oddities);
    Ok(Reading { mode, carriers, neighbours: Vec::new() })
}

/// The value a code stands for; `None` for "not known" and for a field that is not there.
fn shown(command: &str, kind: CodeKind, field: Option<&str>) -> Result<Option<f64>, DriverError> {
    let Some(field) = field else { return Ok(None) };
    let code: u16 =
        field.parse().map_err(|_| nonsense(&format!("{command} holds something that is no code"), field))?;
    let decoded = decode(kind, code).map_err(|error| nonsense(&format!("{command}: {error}"), field))?;
    Ok(decoded.map(|interval| interval.shown()))
}

/// `+COPS: 0,0,"operator",7`: the access technology is the fourth field; none while not registered.
fn access_technology(text: &str) -> Result<Option<u8>, DriverError> {
    // An operator's name may hold a comma inside its quotes.
    let behind = text.rfind('"').map_or(text, |quote| &text[quote + 1..]);
    if !text.contains('"') {
        return Ok(None);
    }
    match behind.trim_start_matches(',').trim() {
        "" => Ok(None),
        field => {
            field.parse().map(Some).map_err(|_| nonsense("+COPS: its access technology is no number", text))
        }
    }
}

/// `+CEREG: 2,1,"1A2B","01A2B302",7`: registered (1 home, 5 roaming), the cell identity in hexadecimal behind the area.
fn registered(text: Option<&str>, command: &str, bits: u32) -> Result<Option<u64>, DriverError> {
    let Some(text) = text else { return Ok(None) };
    let fields: Vec<&str> = text.split(',').map(|field| field.trim().trim_matches('"')).collect();
    if !matches!(fields.get(1), Some(&("1" | "5"))) {
        return Ok(None);
    }
    let Some(field) = fields.get(3).filter(|field| !field.is_empty()) else { return Ok(None) };
    let identity = u64::from_str_radix(field, 16)
        .map_err(|_| nonsense(&format!("{command}: its cell identity is not hexadecimal"), text))?;
    if identity >> bits != 0 {
        return Err(nonsense(&format!("{command}: a cell identity has {bits} bits at the most"), text));
    }
    Ok(Some(identity))
}

/// A connection to the first of an address's numbers that answers and may be asked.
async fn connect(address: &str) -> Result<Option<TcpStream>, DriverError> {
    let found = tokio::net::lookup_host(address).await.map(Iterator::collect::<Vec<_>>).unwrap_or_default();
    for one in &found {
        open_beacon_outbound::check_address(*one)
            .map_err(|refusal| DriverError::Unreachable(refusal.to_string()))?;
    }
    for one in found {
        if let Ok(stream) = TcpStream::connect(one).await {
            return Ok(Some(stream));
        }
    }
    Ok(None)
}
