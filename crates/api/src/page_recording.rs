//! The recording of a gateway's page that is under way or was made last: it is kept in memory until another is begun, and goes
//! into a file with the recipe that was made of it.

use crate::link::LinkHub;
use open_beacon_core::limits::MOST_RECORDED;
use open_beacon_core::model::{GatewaySecrets, GatewaySettings, SiteId};
use open_beacon_gateway::{DriverError, LineUse, PageRecorder, PageRecording, RecordedAnswer};
use serde::Serialize;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};
use tokio_util::sync::CancellationToken;
use utoipa::ToSchema;

/// Answers of one part of a recording: twenty with an idle line and with traffic.
pub(crate) const ANSWERS: usize = 10;
/// Pages are asked no more often than this, and no less often than every [`SLOWEST`].
const QUICKEST: Duration = Duration::from_secs(1);
const SLOWEST: Duration = Duration::from_secs(5);
/// Failures one after the other that end it.
const MOST_FAILURES: usize = 3;

/// A recording as it stands.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub struct PageRecordingView {
    /// What the line is used for in the part that is under way.
    pub running: Option<LineUse>,
    /// Answers of this part, of those wanted.
    pub taken: usize,
    pub wanted: usize,
    /// Why the last part ended early, a sentence without a full stop.
    pub problem: Option<String>,
    /// All answers so far; none while a part is under way.
    pub recording: PageRecording,
}

#[derive(Debug, Default)]
struct Kept {
    site: Option<SiteId>,
    began: Option<Instant>,
    view: PageRecordingView,
    stop: CancellationToken,
}

/// One recording at a time.
#[derive(Clone, Debug, Default)]
pub(crate) struct PageRecordings(Arc<Mutex<Kept>>);

/// Which page is recorded, and how it is signed in to.
pub(crate) struct Recorded {
    pub(crate) site: SiteId,
    pub(crate) gateway: GatewaySettings,
    pub(crate) secrets: GatewaySecrets,
    pub(crate) line: LineUse,
}

impl PageRecordings {
    fn kept(&self) -> MutexGuard<'_, Kept> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The recording of a site.
    pub(crate) fn view(&self, site: SiteId) -> PageRecordingView {
        let kept = self.kept();
        if kept.site != Some(site) {
            return PageRecordingView { wanted: ANSWERS, ..PageRecordingView::default() };
        }
        let view = &kept.view;
        let recording =
            if view.running.is_some() { PageRecording::default() } else { view.recording.clone() };
        PageRecordingView { recording, problem: view.problem.clone(), ..*view }
    }

    /// Ends what is under way; what was taken stays.
    pub(crate) fn stop(&self, site: SiteId) {
        let mut kept = self.kept();
        if kept.site == Some(site) {
            kept.stop.cancel();
            kept.view.running = None;
        }
    }

    /// Begins a part. An idle line begins a new recording; traffic goes on with the one that is there.
    ///
    /// # Errors
    /// Where one is under way, or the recording is full: why, in a sentence.
    pub(crate) fn begin(
        &self,
        site: SiteId,
        line: LineUse,
        ending: &CancellationToken,
    ) -> Result<CancellationToken, String> {
        let mut kept = self.kept();
        if kept.view.running.is_some() {
            return Err("Answers are being recorded already. Stop that first.".into());
        }
        if line == LineUse::Idle || kept.site != Some(site) {
            *kept = Kept { site: Some(site), ..Kept::default() };
        }
        if kept.view.recording.answers.len() + ANSWERS > MOST_RECORDED {
            return Err(format!(
                "A recording has {MOST_RECORDED} answers at most. Begin a new one with an idle line."
            ));
        }
        kept.stop = ending.child_token();
        (kept.view.running, kept.view.problem) = (Some(line), None);
        (kept.view.taken, kept.view.wanted) = (0, ANSWERS);
        Ok(kept.stop.clone())
    }

    /// Takes a part's answers, until there are enough or it is stopped.
    pub(crate) async fn take(&self, links: &LinkHub, of: Recorded, stop: CancellationToken) {
        let taking = async {
            let recorder = links.page_recorder(of.site, &of.gateway, of.secrets.clone()).await;
            self.answers(links, &of, &recorder.map_err(|error| error.to_string())?).await
        };
        let ended = tokio::select! {
            () = stop.cancelled() => return,
            ended = taking => ended,
        };
        let mut kept = self.kept();
        // Another recording may have begun in the meantime.
        if !stop.is_cancelled() {
            (kept.view.running, kept.view.problem) = (None, ended.err());
        }
    }

    async fn answers(&self, links: &LinkHub, of: &Recorded, recorder: &PageRecorder) -> Result<(), String> {
        let pace = Duration::from_millis(u64::from(of.gateway.poll_interval_ms)).clamp(QUICKEST, SLOWEST);
        let (mut taken, mut failures) = (0, 0);
        while taken < ANSWERS {
            match links.record_answer(of.site, &of.gateway.status_url, recorder).await {
                Ok(body) => {
                    failures = 0;
                    taken += 1;
                    self.add(of.line, body);
                }
                Err(error @ (DriverError::LoginFailed { .. } | DriverError::Untrusted { .. })) => {
                    return Err(error.to_string());
                }
                Err(error) => {
                    failures += 1;
                    if failures == MOST_FAILURES {
                        return Err(error.to_string());
                    }
                }
            }
            if taken < ANSWERS {
                tokio::time::sleep(pace).await;
            }
        }
        Ok(())
    }

    fn add(&self, line: LineUse, body: String) {
        let mut kept = self.kept();
        let began = *kept.began.get_or_insert_with(Instant::now);
        let after_ms = u32::try_from(began.elapsed().as_millis()).unwrap_or(u32::MAX);
        kept.view.taken += 1;
        kept.view.recording.answers.push(RecordedAnswer { line, after_ms, body, expected: None });
    }
}
