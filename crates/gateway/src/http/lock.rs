//! Telling a page's device which bands to use.

use super::template::fill;
use super::{Answer, DriverError, HttpDriver, escape_of, media_type, nonsense, shut};
use crate::page::{looks_like, parse_page};
use crate::sound::reported_error;
use open_beacon_domain::model::{AskMethod, LockRequest, Login, PageFormat};
use reqwest::header::CONTENT_TYPE;
use serde_json::Value;
use std::sync::PoisonError;

impl HttpDriver {
    /// Sends a lock, or what takes it away where there are no values; signs in before where needed.
    ///
    /// # Errors
    /// [`DriverError`]: unreachable, not let in, or refused, with what the device said.
    pub async fn lock(
        &self,
        request: &LockRequest,
        values: Option<&[(&'static str, String)]>,
    ) -> Result<(), DriverError> {
        let by_steps = matches!(self.recipe.login, Login::Steps { .. });
        if by_steps && !self.signed_in.load(std::sync::atomic::Ordering::Acquire) {
            self.sign_in().await?;
        }
        let mut answer = self.tell(request, values).await?;
        if by_steps && shut(&answer, &self.recipe) {
            self.sign_in().await?;
            answer = self.tell(request, values).await?;
        }
        if shut(&answer, &self.recipe) {
            return Err(self.login_failed("it does not let in with this name and password".into()));
        }
        if answer.status.is_success() {
            return match refusal(&answer.body) {
                Some(said) => Err(nonsense(format!("it refused the lock: {said}"), &answer.body)),
                None => Ok(()),
            };
        }
        Err(nonsense(format!("it refused the lock (status {})", answer.status.as_u16()), &answer.body))
    }

    async fn tell(
        &self,
        request: &LockRequest,
        values: Option<&[(&'static str, String)]>,
    ) -> Result<Answer, DriverError> {
        let (path, body) = match values {
            Some(_) => (&request.path, &request.body),
            None if request.undo_path.is_empty() => (&request.path, &request.undo_body),
            None => (&request.undo_path, &request.undo_body),
        };
        let mut known = self.kept.lock().unwrap_or_else(PoisonError::into_inner).clone();
        known.extend(
            values.unwrap_or_default().iter().map(|(name, value)| ((*name).to_owned(), value.clone())),
        );
        let filled = |text: &str, escape| fill(text, &known, escape).map_err(|problem| nonsense(problem, ""));
        let path = filled(path, super::template::Escape::Form)?;
        let url = self.own(&path)?;
        let mut sent = match request.method {
            AskMethod::Get => self.client.get(url),
            AskMethod::Post => self
                .client
                .post(url)
                .header(CONTENT_TYPE, media_type(request.send))
                .body(filled(body, escape_of(request.send))?),
        };
        for header in &self.recipe.headers {
            sent = sent.header(&header.name, filled(&header.value, super::template::Escape::None)?);
        }
        if self.recipe.login == Login::Basic {
            sent = sent.basic_auth(&self.secrets.user, Some(&self.secrets.password));
        }
        self.send(sent).await
    }
}

/// What an answer that arrived well says went wrong: many devices answer 200 to what they refuse.
fn refusal(body: &str) -> Option<String> {
    let format = looks_like(body);
    if format == PageFormat::Html {
        return None;
    }
    let page = parse_page(body, format).ok()?;
    let inner = page.as_object().filter(|page| page.len() == 1).and_then(|page| page.values().next());
    let failed = page.as_object().and_then(|page| {
        page.iter().find(|(key, value)| {
            let tells = matches!(key.to_lowercase().as_str(), "result" | "success" | "status");
            let said = value.as_str().map(str::to_lowercase);
            let words = matches!(said.as_deref(), Some("fail" | "failed" | "failure" | "error" | "false"));
            tells && (words || **value == Value::Bool(false))
        })
    });
    reported_error(&page)
        .or_else(|| reported_error(inner?))
        .or_else(|| failed.map(|(key, value)| format!("the page reports an error ({key}: {value})")))
}

/// A text with a lock's values in it; for a modem's command.
///
/// # Errors
/// Which name is not known.
pub(crate) fn filled_command(text: &str, values: &[(&'static str, String)]) -> Result<String, String> {
    let known = values.iter().map(|(name, value)| ((*name).to_owned(), value.clone())).collect();
    fill(text, &known, super::template::Escape::None)
}
