//! Moving bytes over several connections at once.

use crate::body::{BodyLook, Told};
use crate::plan::Plan;
use bytes::Bytes;
use futures::StreamExt;
use futures::future::join_all;
use open_beacon_core::model::EndedEarly;
use open_beacon_core::stats::{slowed_down, steady_from};
use open_beacon_outbound::{Redirects, SendError};
use reqwest::StatusCode;
use reqwest::header::ACCEPT_ENCODING;
use std::sync::Mutex;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;
use tokio::time::Instant;
use tokio_util::sync::CancellationToken;

/// What a direction brought.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Transfer {
    /// Of the steady part; `None` where less than half a second was measured.
    pub(crate) mbps: Option<f64>,
    /// Rates from the first byte on, of [`STEP`] each, Mbit/s.
    pub(crate) rates: Vec<f64>,
    /// The step from which on `mbps` counts.
    pub(crate) from: usize,
    /// Payload moved, warm-up included.
    pub(crate) bytes: u64,
    /// Why it ended before its time.
    pub(crate) ended: Option<EndedEarly>,
    pub(crate) problem: Option<String>,
    /// What the first answer said of itself.
    pub(crate) told: Told,
}

/// Time of one rate of the course; every other is told.
pub(crate) const STEP: Duration = Duration::from_millis(100);
/// A connection that failed this often in a row without moving a byte gives up.
const TRIES: u32 = 3;
/// Shortest time that a rate is computed over.
const SHORTEST: Duration = Duration::from_millis(500);
/// How long requests under way at the end of an upload may take to be acknowledged.
const GRACE: Duration = Duration::from_secs(4);
/// What was sent within this time may not be acknowledged yet.
const UNDER_WAY: Duration = Duration::from_secs(2);
/// What is slower than this share of what follows is coming up to speed (common practice, no source).
const COMING_UP: f64 = 0.9;
const SMALLEST_POST: usize = 32 << 10;
const LARGEST_POST: usize = 4 << 20;

fn client() -> Result<reqwest::Client, String> {
    open_beacon_outbound::client(Redirects::SameHost)
        .connect_timeout(Duration::from_secs(5))
        .read_timeout(Duration::from_secs(5))
        .build()
        .map_err(|error| error.to_string())
}

/// Why nothing was sent, or no answer came, in plain words.
pub(crate) fn not_sent(error: &SendError) -> String {
    match error {
        SendError::Refused(refusal) => refusal.to_string(),
        SendError::Failed(error) => plainly(error),
        SendError::NoAnswer(why) => why.to_string(),
    }
}

/// An error of the network in plain words.
pub(crate) fn plainly(error: &reqwest::Error) -> String {
    if error.is_timeout() {
        "no answer in time".into()
    } else if error.is_connect() {
        "nothing answers at this address".into()
    } else if error.is_builder() {
        "the address is not a valid web address".into()
    } else {
        "the connection was lost".into()
    }
}

fn mbps(bytes: f64, time: Duration) -> f64 {
    bytes * 8.0 / time.as_secs_f64() / 1e6
}

/// The step from which on a rate counts: after the warm-up, once it had come up to speed, and after a burst that did not last; no less than half a
/// second is left of it.
fn counted_from(rates: &[f64], warm_up: Duration) -> usize {
    let warm_up = (warm_up.as_secs_f64() / STEP.as_secs_f64()).ceil() as usize;
    let slow = slowed_down(rates, STEP.as_secs_f64()).map_or(0, |found| found.at);
    // The rule leaves out what would make the mean less sure, scatter too: only what was slower is coming up to speed.
    let steady = steady_from(rates);
    let comes_up = steady > warm_up && mean(&rates[warm_up..steady]) < COMING_UP * mean(&rates[steady..]);
    let from = warm_up.max(if comes_up { steady } else { 0 }).max(slow);
    let least = (SHORTEST.as_secs_f64() / STEP.as_secs_f64()) as usize;
    if rates.len() >= from + least { from } else { warm_up }
}

fn mean(rates: &[f64]) -> f64 {
    rates.iter().sum::<f64>() / rates.len().max(1) as f64
}

/// Downloads for warm-up and phase over all connections, counting bytes as they arrive.
pub(crate) async fn download(
    plan: &Plan,
    cancel: &CancellationToken,
    told: impl Fn(f64, Option<f64>) + Sync,
) -> Transfer {
    let client = match client() {
        Ok(client) => client,
        Err(problem) => return Transfer { problem: Some(problem), ..Transfer::default() },
    };
    let counter = AtomicU64::new(0);
    let problem = Mutex::new(None);
    let look = BodyLook::default();
    let stop = cancel.child_token();
    let fetching = Fetching { client: &client, url: &plan.download_url, counter: &counter, look: &look };
    let connections = join_all((0..plan.connections).map(|_| fetch(fetching, &problem, &stop)));
    let clock = async {
        let began = Instant::now();
        let mut seen = vec![(began, 0)];
        let total = plan.warm_up + plan.phase;
        let (mut early, mut ended) = (EarlyEnd::of(plan), None);
        while began.elapsed() < total && !stop.is_cancelled() && ended.is_none() {
            tokio::time::sleep(STEP.min(total.saturating_sub(began.elapsed()))).await;
            let moved = counter.load(Ordering::Relaxed);
            seen.push((Instant::now(), moved));
            ended = early.look(moved, || course_of(&seen));
            if seen.len() % 2 == 1 {
                let (last, now) = (seen[seen.len() - 3], seen[seen.len() - 1]);
                told(
                    (began.elapsed().as_secs_f64() / total.as_secs_f64()).min(1.0),
                    Some(mbps((now.1 - last.1) as f64, now.0 - last.0)),
                );
            }
        }
        stop.cancel();
        let rates = course_of(&seen);
        let from = counted_from(&rates, plan.warm_up);
        let (mark, end) = (seen.get(from).copied(), (Instant::now(), counter.load(Ordering::Relaxed)));
        let rate = mark
            .filter(|mark| end.0 - mark.0 >= SHORTEST && end.1 > mark.1)
            .map(|mark| mbps((end.1 - mark.1) as f64, end.0 - mark.0));
        (rate, rates, from, ended)
    };
    // When every connection has given up there is nothing left to time.
    let all_gone = async {
        connections.await;
        stop.cancel();
    };
    let ((mbps, rates, from, ended), ()) = tokio::join!(clock, all_gone);
    let problem = problem.into_inner().unwrap_or_default().or_else(|| too_little(mbps, ended));
    Transfer { mbps, rates, from, bytes: counter.into_inner(), ended, problem, told: look.into_told() }
}

/// Looks once a second whether a direction can end before its time.
struct EarlyEnd<'a> {
    plan: &'a Plan,
    seconds: usize,
}

impl<'a> EarlyEnd<'a> {
    fn of(plan: &'a Plan) -> Self {
        Self { plan, seconds: 0 }
    }

    fn look(&mut self, bytes: u64, rates: impl FnOnce() -> Vec<f64>) -> Option<EndedEarly> {
        if self.plan.precise_to.is_none() {
            return self.plan.ended_early(bytes, &[]);
        }
        let rates = rates();
        let seconds = (rates.len() as f64 * STEP.as_secs_f64()) as usize;
        let anew = std::mem::replace(&mut self.seconds, seconds) < seconds;
        let from = if anew { counted_from(&rates, self.plan.warm_up) } else { rates.len() };
        self.plan.ended_early(bytes, rates.get(from..).unwrap_or_default())
    }
}

/// Why there is no rate where the data allowed were over too soon.
fn too_little(mbps: Option<f64>, ended: Option<EndedEarly>) -> Option<String> {
    match (mbps, ended) {
        (None, Some(EndedEarly::Data { most_mb })) => Some(format!(
            "the {most_mb:.0}\u{202f}MB allowed were moved before its warm-up was over; allow more data, or a shorter warm-up"
        )),
        _ => None,
    }
}

/// Rates between looks at a counter, in steps as long as they came out, Mbit/s to the hundredth.
fn course_of(seen: &[(Instant, u64)]) -> Vec<f64> {
    let between = |two: &[(Instant, u64)]| {
        let time = (two[1].0 - two[0].0).max(Duration::from_millis(1));
        hundredth(mbps((two[1].1 - two[0].1) as f64, time))
    };
    // The last look comes when the time is over: a step that is no whole one.
    let whole = |two: &&[(Instant, u64)]| two[1].0 - two[0].0 >= STEP / 2;
    seen.windows(2).filter(whole).map(between).collect()
}

pub(crate) fn hundredth(value: f64) -> f64 {
    (value * 100.0).round() / 100.0
}

/// What every connection of a download asks for, and where it says what came.
#[derive(Clone, Copy)]
struct Fetching<'a> {
    client: &'a reqwest::Client,
    url: &'a str,
    counter: &'a AtomicU64,
    look: &'a BodyLook,
}

async fn fetch(of: Fetching<'_>, problem: &Mutex<Option<String>>, stop: &CancellationToken) {
    let counter = of.counter;
    let mut failures = 0;
    while failures < TRIES {
        let before = counter.load(Ordering::Relaxed);
        let ended = tokio::select! {
            () = stop.cancelled() => return,
            ended = fetch_once(of) => ended,
        };
        match ended {
            Ok(()) if counter.load(Ordering::Relaxed) > before => failures = 0,
            Ok(()) => failures += 1,
            Err(words) => {
                failures += 1;
                if failures == TRIES {
                    *problem.lock().unwrap_or_else(std::sync::PoisonError::into_inner) = Some(words);
                    // One connection gone for good makes the sum of the others a different measurement.
                    stop.cancel();
                }
                tokio::time::sleep(Duration::from_millis(100)).await;
            }
        }
    }
}

async fn fetch_once(of: Fetching<'_>) -> Result<(), String> {
    // Compressed on the way it would not be a test of the way.
    let request = of.client.get(of.url).header(ACCEPT_ENCODING, "identity");
    let response = open_beacon_outbound::send(request).await.map_err(|error| not_sent(&error))?;
    if !response.status().is_success() {
        return Err(format!("it answered with status {}", response.status().as_u16()));
    }
    let looked_at = of.look.claim(&response);
    let mut body = response.bytes_stream();
    while let Some(chunk) = body.next().await {
        let chunk = chunk.map_err(|error| plainly(&error))?;
        if looked_at {
            of.look.add(&chunk);
        }
        of.counter.fetch_add(chunk.len() as u64, Ordering::Relaxed);
    }
    Ok(())
}

/// One acknowledged POST: when it began, when it was answered, how much it carried.
#[derive(Clone, Copy, Debug)]
struct Post {
    began: Instant,
    ended: Instant,
    bytes: usize,
}

/// Uploads for warm-up and phase over all connections. Only what the other end acknowledged counts, spread evenly
/// over the time its request took: bytes handed to the operating system may still be waiting on this machine.
pub(crate) async fn upload(
    plan: &Plan,
    cancel: &CancellationToken,
    told: impl Fn(f64, Option<f64>) + Sync,
) -> Transfer {
    let (Some(url), Ok(client)) = (plan.upload_url.as_deref(), client()) else {
        return Transfer::default();
    };
    let posts = Mutex::new(Vec::new());
    let problem = Mutex::new(None);
    let stop = cancel.child_token();
    let began = Instant::now();
    let total = plan.warm_up + plan.phase;
    let sending = Sending {
        client: &client,
        url,
        until: Mutex::new(began + total),
        handed: AtomicU64::new(0),
        most_bytes: plan.most_bytes(),
    };
    let connections = join_all((0..plan.connections).map(|_| send(&sending, &posts, &problem, &stop)));
    let steps_until = |until: Instant| {
        let posts = posts.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        let steps = (until.saturating_duration_since(began).as_secs_f64() / STEP.as_secs_f64()) as u32;
        let rate_of =
            |step: u32| rate_between(&posts, began + STEP * step, began + STEP * (step + 1)).unwrap_or(0.0);
        (0..steps).map(rate_of).map(hundredth).collect::<Vec<f64>>()
    };
    let clock = async {
        let (mut early, mut ended) = (EarlyEnd::of(plan), None);
        while began.elapsed() < total && !stop.is_cancelled() && ended.is_none() {
            tokio::time::sleep((2 * STEP).min(total.saturating_sub(began.elapsed()))).await;
            let now = Instant::now();
            let handed = sending.handed.load(Ordering::Relaxed);
            ended = early.look(handed, || now.checked_sub(UNDER_WAY).map(steps_until).unwrap_or_default());
            if ended.is_some() {
                sending.end_at(now);
            }
            let window = Duration::from_secs(1).min(now - began);
            let rate = rate_between(
                &posts.lock().unwrap_or_else(std::sync::PoisonError::into_inner),
                now - window,
                now,
            );
            told((began.elapsed().as_secs_f64() / total.as_secs_f64()).min(1.0), rate);
        }
        ended
    };
    let (ended, _) = tokio::join!(clock, connections);
    let until = if stop.is_cancelled() { Instant::now().min(sending.ends_at()) } else { sending.ends_at() };
    let rates = steps_until(until);
    let posts = posts.into_inner().unwrap_or_default();
    let from = counted_from(&rates, plan.warm_up);
    let counts = began + STEP * from as u32;
    let rate = (until.saturating_duration_since(counts) >= SHORTEST)
        .then(|| rate_between(&posts, counts, until))
        .flatten();
    Transfer {
        mbps: rate,
        rates,
        from,
        bytes: posts.iter().map(|post| post.bytes as u64).sum(),
        ended,
        problem: problem.into_inner().unwrap_or_default().or_else(|| too_little(rate, ended)),
        told: Told::default(),
    }
}

/// Mean rate of acknowledged payload between two instants, Mbit/s; `None` where nothing was acknowledged.
fn rate_between(posts: &[Post], from: Instant, until: Instant) -> Option<f64> {
    let bytes: f64 = posts
        .iter()
        .map(|post| {
            let inside = post.ended.min(until).saturating_duration_since(post.began.max(from));
            let whole = (post.ended - post.began).as_secs_f64();
            if whole > 0.0 { post.bytes as f64 * inside.as_secs_f64() / whole } else { 0.0 }
        })
        .sum();
    (bytes > 0.0 && until > from).then(|| mbps(bytes, until - from))
}

/// What every connection of an upload sends to, and how long and how much.
struct Sending<'a> {
    client: &'a reqwest::Client,
    url: &'a str,
    until: Mutex<Instant>,
    /// Bytes given to requests.
    handed: AtomicU64,
    most_bytes: u64,
}

impl Sending<'_> {
    fn ends_at(&self) -> Instant {
        *self.until.lock().unwrap_or_else(std::sync::PoisonError::into_inner)
    }

    /// Nothing is sent after this instant, or an earlier one that was said before.
    fn end_at(&self, at: Instant) {
        let mut until = self.until.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        *until = (*until).min(at);
    }

    /// So many of `bytes` that may still be sent.
    fn allow(&self, bytes: usize) -> usize {
        let before = self.handed.fetch_add(bytes as u64, Ordering::Relaxed);
        self.most_bytes.saturating_sub(before).min(bytes as u64) as usize
    }
}

async fn send(
    sending: &Sending<'_>,
    posts: &Mutex<Vec<Post>>,
    problem: &Mutex<Option<String>>,
    stop: &CancellationToken,
) {
    let mut wanted = SMALLEST_POST;
    let mut largest = LARGEST_POST;
    let mut failures = 0;
    while Instant::now() < sending.ends_at() && failures < TRIES {
        let bytes = sending.allow(wanted);
        if bytes == 0 {
            sending.end_at(Instant::now());
            return;
        }
        let began = Instant::now();
        let patience = sending.ends_at().saturating_duration_since(began) + GRACE;
        let request = sending.client.post(sending.url).timeout(patience).body(noise(bytes));
        let answer = tokio::select! {
            () = stop.cancelled() => return,
            answer = open_beacon_outbound::send(request) => answer,
        };
        let ended = Instant::now();
        let refused = match answer {
            Ok(response) if response.status().is_success() => {
                posts.lock().unwrap_or_else(std::sync::PoisonError::into_inner).push(Post {
                    began,
                    ended,
                    bytes,
                });
                failures = 0;
                // Long enough that the pause between two requests does not count, short enough to end in time.
                if ended - began < Duration::from_millis(250) {
                    wanted = (wanted * 2).min(largest);
                } else if ended - began > Duration::from_secs(1) {
                    wanted = (wanted / 2).max(SMALLEST_POST);
                }
                continue;
            }
            // It takes shorter ones, perhaps.
            Ok(response) if response.status() == StatusCode::PAYLOAD_TOO_LARGE && bytes > SMALLEST_POST => {
                largest = bytes / 2;
                wanted = largest;
                continue;
            }
            Ok(response) => format!("it answered with status {}", response.status().as_u16()),
            Err(error) => not_sent(&error),
        };
        failures += 1;
        if failures == TRIES {
            *problem.lock().unwrap_or_else(std::sync::PoisonError::into_inner) = Some(refused);
            stop.cancel();
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

/// Bytes that no link on the way can compress, others every time.
pub(crate) fn noise(bytes: usize) -> Bytes {
    let mut filled = vec![0; bytes];
    fastrand::fill(&mut filled);
    Bytes::from(filled)
}
