//! A device with a status page over HTTP: asked, signed in to where needed, and read by a map.

mod lock;
mod template;
mod trust;

use crate::answer::read_answer;
use crate::page::{looks_like, parse_page};
use crate::sound;
pub(crate) use lock::filled_command;
use open_beacon_domain::limits::LONGEST_PAGE_BYTES;
use open_beacon_domain::model::{
    AskMethod, GatewayRecipe, GatewaySecrets, GatewaySettings, Login, LoginStep, PageFormat, Reading, SendAs,
    is_own_path,
};
use open_beacon_outbound::{NoAnswer, Redirects, SendError, Transport, client};
use reqwest::StatusCode;
use reqwest::header::CONTENT_TYPE;
use serde_json::Value;
use std::sync::atomic::{AtomicBool, AtomicU8, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use template::{Escape, Known, fill};
use tokio::time::Instant;
use trust::Refused;

const TIMEOUT: Duration = Duration::from_secs(5);
const TOO_SLOW: &str = "it did not answer within 5 seconds";
const NOBODY_THERE: &str = "nothing answers at this address";
const BROKEN_OFF: &str = "it broke off in the middle of its answer";
/// Failed logins after which none is tried any more: devices lock their owner out after three or so (common practice,
/// no source).
const MOST_FAILED_LOGINS: u8 = 2;
/// A page that stays foreign although it is signed in to is no reason to sign in at every look.
const RENEWAL_PAUSE: Duration = Duration::from_secs(60);

/// Why no reading came.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum DriverError {
    /// No answer at all.
    #[error("{0}")]
    Unreachable(String),
    /// An answer that is not a status page; what it said, shortened.
    #[error("{problem}")]
    Nonsense { problem: String, said: String },
    /// It does not let this program in; `stopped` where no further login is tried.
    #[error("{problem}")]
    LoginFailed { problem: String, stopped: bool },
    /// It shows a certificate that nobody vouches for.
    #[error("it shows a certificate that nobody vouches for")]
    Untrusted { certificate_sha256: String },
}

/// Failed logins one after the other, kept over new drivers for the same gateway: a new connection must not begin to
/// count anew.
#[derive(Clone, Debug, Default)]
pub struct LoginAttempts(Arc<AtomicU8>);

impl LoginAttempts {
    /// How many failed one after the other.
    pub fn failed(&self) -> u8 {
        self.0.load(Ordering::Acquire)
    }

    /// Starts from a number known from before; 0 where the user says to try again.
    pub fn set(&self, failed: u8) {
        self.0.store(failed, Ordering::Release);
    }

    fn stopped(&self) -> bool {
        self.failed() >= MOST_FAILED_LOGINS
    }
}

/// Reads one status page. Holds one connection and never has two requests under way.
pub struct HttpDriver {
    client: reqwest::Client,
    transport: Transport,
    url: reqwest::Url,
    recipe: GatewayRecipe,
    secrets: GatewaySecrets,
    attempts: LoginAttempts,
    signed_in: AtomicBool,
    /// An answer was seen to close its HTML: one that does not is torn.
    closed: AtomicBool,
    /// When a session was last renewed because of what a page showed.
    renewed: Mutex<Option<Instant>>,
    kept: Mutex<Known>,
    refused: Refused,
}

/// Without what was put into requests: name, password and tokens are nobody's business.
impl std::fmt::Debug for HttpDriver {
    fn fmt(&self, to: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        to.debug_struct("HttpDriver").field("url", &self.url.path()).finish_non_exhaustive()
    }
}

struct Answer {
    status: StatusCode,
    body: String,
}

impl HttpDriver {
    /// A driver for the page at the settings' address.
    ///
    /// # Errors
    /// Where the address is none, or no HTTP client can be made on this machine.
    pub fn new(
        settings: &GatewaySettings,
        secrets: GatewaySecrets,
        attempts: LoginAttempts,
    ) -> Result<Self, DriverError> {
        let url = reqwest::Url::parse(&settings.status_url)
            .map_err(|_| DriverError::Unreachable("the address is not a valid web address".into()))?;
        let refused = Refused::default();
        let tls = trust::tls(settings.certificate_sha256.as_deref(), refused.clone())
            .map_err(|error| DriverError::Unreachable(error.to_string()))?;
        // Names and passwords go to the gateway itself: a redirect elsewhere is not followed.
        let client = client(Redirects::SameOrigin)
            .use_preconfigured_tls(tls)
            .timeout(TIMEOUT)
            .pool_max_idle_per_host(1)
            .cookie_store(true)
            .build()
            .map_err(|error| DriverError::Unreachable(error.to_string()))?;
        let known = [("user", secrets.user.clone()), ("password", secrets.password.clone())]
            .map(|(name, value)| (name.to_owned(), value));
        Ok(Self {
            client,
            transport: Transport::Network,
            url,
            recipe: settings.recipe.clone(),
            secrets,
            attempts,
            signed_in: AtomicBool::new(false),
            closed: AtomicBool::new(false),
            renewed: Mutex::default(),
            kept: Mutex::new(known.into()),
            refused,
        })
    }

    /// The same over something else than the network.
    #[must_use]
    pub fn over(mut self, transport: &Transport) -> Self {
        self.transport = transport.clone();
        self
    }

    /// Fetches and reads the page once.
    ///
    /// # Errors
    /// [`DriverError`].
    pub async fn read(&self) -> Result<Reading, DriverError> {
        let body = self.fetch().await?;
        match self.reading_of(&body) {
            // A session that ran out may answer any page at all: signed in anew, it is asked once more.
            Err(_) if self.may_renew() => {
                self.sign_in().await?;
                let body = self.fetch().await?;
                self.reading_of(&body).map_err(|problem| nonsense(problem, &body))
            }
            read => read.map_err(|problem| nonsense(problem, &body)),
        }
    }

    /// What an answer says, where it is a whole status page.
    fn reading_of(&self, body: &str) -> Result<Reading, String> {
        let reading = read_answer(&self.recipe, body, self.closed.load(Ordering::Acquire))?;
        let closes = self.recipe.format == PageFormat::Html && sound::closes(body);
        self.closed.fetch_or(closes, Ordering::AcqRel);
        Ok(reading)
    }

    /// Name, password and what login steps kept: what must not be in anything that is shared.
    pub(crate) fn secret_values(&self) -> Vec<String> {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner).values().cloned().collect()
    }

    /// Whether a login is worth another try: signed in by steps, and not tried just before.
    fn may_renew(&self) -> bool {
        if !matches!(self.recipe.login, Login::Steps { .. }) || self.attempts.stopped() {
            return false;
        }
        let mut last = self.renewed.lock().unwrap_or_else(PoisonError::into_inner);
        let now = Instant::now();
        let due = last.is_none_or(|last| now.duration_since(last) >= RENEWAL_PAUSE);
        if due {
            *last = Some(now);
        }
        due
    }

    /// Fetches the page once, whatever it says; signs in before, and again where the session has run out.
    ///
    /// # Errors
    /// [`DriverError`]; never for what the page says.
    pub async fn fetch(&self) -> Result<String, DriverError> {
        let by_steps = matches!(self.recipe.login, Login::Steps { .. });
        if self.recipe.login != Login::None && self.attempts.stopped() {
            return Err(self.stopped());
        }
        let fresh = by_steps && !self.signed_in.load(Ordering::Acquire);
        if fresh {
            self.sign_in().await?;
        }
        let mut answer = self.ask().await?;
        if by_steps && !fresh && shut(&answer, &self.recipe) {
            self.sign_in().await?;
            answer = self.ask().await?;
        }
        if shut(&answer, &self.recipe) {
            if self.recipe.login == Login::None {
                let problem = format!("it wants to be signed in to{}", status_said(answer.status));
                return Err(nonsense(problem, &answer.body));
            }
            return Err(self.login_failed(format!(
                "it does not let in with this name and password{}",
                status_said(answer.status)
            )));
        }
        self.attempts.set(0);
        if !answer.status.is_success() {
            return Err(nonsense(
                format!("the page answered with status {}", answer.status.as_u16()),
                &answer.body,
            ));
        }
        Ok(answer.body)
    }

    fn stopped(&self) -> DriverError {
        DriverError::LoginFailed {
            problem: "two logins failed; no further one is tried, so that the gateway does not lock you out"
                .into(),
            stopped: true,
        }
    }

    fn login_failed(&self, problem: String) -> DriverError {
        self.signed_in.store(false, Ordering::Release);
        self.attempts.set(self.attempts.failed().saturating_add(1));
        DriverError::LoginFailed { problem, stopped: self.attempts.stopped() }
    }

    async fn ask(&self) -> Result<Answer, DriverError> {
        let mut request = match self.recipe.method {
            AskMethod::Get => self.client.get(self.url.clone()),
            AskMethod::Post => {
                let kind = if self.recipe.body.trim_start().starts_with(['{', '[']) {
                    SendAs::Json
                } else {
                    SendAs::Form
                };
                let body = self.filled(&self.recipe.body, escape_of(kind))?;
                self.client.post(self.url.clone()).header(CONTENT_TYPE, media_type(kind)).body(body)
            }
        };
        for header in &self.recipe.headers {
            request = request.header(&header.name, self.filled(&header.value, Escape::None)?);
        }
        if self.recipe.login == Login::Basic {
            request = request.basic_auth(&self.secrets.user, Some(&self.secrets.password));
        }
        self.send(request).await
    }

    fn filled(&self, text: &str, escape: Escape) -> Result<String, DriverError> {
        let kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        fill(text, &kept, escape).map_err(|problem| DriverError::Nonsense { problem, said: String::new() })
    }

    async fn send(&self, request: reqwest::RequestBuilder) -> Result<Answer, DriverError> {
        let response = self.transport.send(request).await.map_err(|error| self.not_sent(error))?;
        let status = response.status();
        Ok(Answer { status, body: self.read_limited(response).await? })
    }

    async fn sign_in(&self) -> Result<(), DriverError> {
        let Login::Steps { steps } = &self.recipe.login else { return Ok(()) };
        for step in steps {
            self.step(step).await?;
        }
        self.signed_in.store(true, Ordering::Release);
        Ok(())
    }

    async fn step(&self, step: &LoginStep) -> Result<(), DriverError> {
        for wanted in &step.compute {
            let value = self.filled(&wanted.value, Escape::None)?;
            self.keep(&wanted.name, value);
        }
        let url = self.own(&step.path)?;
        let mut request = match step.method {
            AskMethod::Get => self.client.get(url),
            AskMethod::Post => self
                .client
                .post(url)
                .header(CONTENT_TYPE, media_type(step.send))
                .body(self.filled(&step.body, escape_of(step.send))?),
        };
        for header in &step.headers {
            request = request.header(&header.name, self.filled(&header.value, Escape::None)?);
        }
        let response = self.transport.send(request).await.map_err(|error| self.not_sent(error))?;
        let (status, headers) = (response.status(), response.headers().clone());
        let body = self.read_limited(response).await?;
        // A good login may land on a page that is not there: whether one is in, the status page tells.
        if matches!(status, StatusCode::UNAUTHORIZED | StatusCode::FORBIDDEN | StatusCode::TOO_MANY_REQUESTS)
        {
            return Err(self.login_failed(format!("it refused the login{}", status_said(status))));
        }
        if status.is_server_error() {
            return Err(nonsense(format!("{} answered with status {}", step.path, status.as_u16()), &body));
        }
        let page = parse_page(&body, looks_like(&body)).unwrap_or(Value::Null);
        if let Some(wanted) = &step.must_hold
            && page.pointer(&wanted.name).map(plain) != Some(wanted.value.clone())
        {
            return Err(self.login_failed(format!("it refused the login at {}", step.path)));
        }
        for kept in &step.keep {
            let found = match kept.value.strip_prefix("header:") {
                Some(name) => {
                    headers.get(name.trim()).and_then(|value| value.to_str().ok()).map(str::to_owned)
                }
                None => page.pointer(&kept.value).map(plain),
            };
            let found = found
                .ok_or_else(|| nonsense(format!("{} holds nothing at {}", step.path, kept.value), &body))?;
            self.keep(&kept.name, found);
        }
        Ok(())
    }

    fn keep(&self, name: &str, value: String) {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner).insert(name.to_owned(), value);
    }

    async fn read_limited(&self, mut response: reqwest::Response) -> Result<String, DriverError> {
        let mut body = Vec::new();
        let broke = |error: reqwest::Error| match error.is_timeout() {
            true => self.unreachable(&error),
            false => DriverError::Unreachable(BROKEN_OFF.into()),
        };
        while let Some(chunk) = response.chunk().await.map_err(broke)? {
            body.extend_from_slice(&chunk);
            if body.len() > LONGEST_PAGE_BYTES {
                return Err(nonsense(
                    "the page is longer than 1 MiB".into(),
                    &String::from_utf8_lossy(&body),
                ));
            }
        }
        Ok(String::from_utf8_lossy(&body).into_owned())
    }

    /// An address on this device. What a path comes to is looked at as it will be asked, whatever was checked before: parts of
    /// it may be from the device's own answers.
    fn own(&self, path: &str) -> Result<reqwest::Url, DriverError> {
        let elsewhere = || nonsense(format!("{path} is no path on this gateway"), "");
        let url = self.url.join(path).map_err(|_| elsewhere())?;
        let home = is_own_path(path) && url.origin() == self.url.origin();
        if home { Ok(url) } else { Err(elsewhere()) }
    }

    fn not_sent(&self, error: SendError) -> DriverError {
        match error {
            SendError::Refused(refusal) => DriverError::Unreachable(refusal.to_string()),
            SendError::Failed(error) => self.unreachable(&error),
            SendError::NoAnswer(why) => DriverError::Unreachable(
                match why {
                    NoAnswer::TimedOut => TOO_SLOW,
                    NoAnswer::NobodyThere => NOBODY_THERE,
                    NoAnswer::BrokenOff => BROKEN_OFF,
                }
                .to_owned(),
            ),
        }
    }

    fn unreachable(&self, error: &reqwest::Error) -> DriverError {
        if let Some(certificate_sha256) = self.refused.lock().unwrap_or_else(PoisonError::into_inner).take() {
            return DriverError::Untrusted { certificate_sha256 };
        }
        let words = if error.is_timeout() {
            TOO_SLOW
        } else if error.is_connect() {
            NOBODY_THERE
        } else if error.is_builder() {
            "the address is not a valid web address"
        } else {
            BROKEN_OFF
        };
        DriverError::Unreachable(words.to_owned())
    }
}

/// Whether an answer says that one is not signed in.
fn shut(answer: &Answer, recipe: &GatewayRecipe) -> bool {
    matches!(answer.status, StatusCode::UNAUTHORIZED | StatusCode::FORBIDDEN)
        || (recipe.login != Login::None && sound::wants_login(&answer.body, &recipe.checks))
}

fn status_said(status: StatusCode) -> String {
    if status.is_success() { String::new() } else { format!(" (status {})", status.as_u16()) }
}

fn plain(value: &Value) -> String {
    value.as_str().map_or_else(|| value.to_string(), str::to_owned)
}

fn escape_of(send: SendAs) -> Escape {
    match send {
        SendAs::Form => Escape::Form,
        SendAs::Json => Escape::Json,
    }
}

fn media_type(send: SendAs) -> &'static str {
    match send {
        SendAs::Form => "application/x-www-form-urlencoded",
        SendAs::Json => "application/json",
    }
}

pub(crate) fn nonsense(problem: String, body: &str) -> DriverError {
    let said: String = body.chars().filter(|c| !c.is_control()).take(160).collect();
    DriverError::Nonsense { problem, said }
}
