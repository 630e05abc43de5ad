//! Checks of how a gateway is asked and read.

use super::Checker;
use crate::model::{
    CarrierGroup, FieldAt, GatewayRecipe, GatewaySettings, LockRecipe, Login, LoginStep, ModemRead, Named,
    PageChecks, PageField, is_own_path,
};

/// Whether a text is a JSON Pointer: empty, or parts that each begin with `/`, `~` only as `~0` or `~1` (RFC 6901
/// section 3).
pub fn is_pointer(text: &str) -> bool {
    let tildes = text.split('~').skip(1).all(|after| after.starts_with(['0', '1']));
    (text.is_empty() || text.starts_with('/')) && tildes
}

/// Most conditions, signs or places of one kind in a recipe.
const MOST_CONDITIONS: usize = 12;
const POINTER: &str =
    "A JSON Pointer (RFC 6901): empty, or parts that each begin with /, for instance /radio/rsrp.";

impl Checker {
    /// A gateway's address and recipe.
    pub fn gateway(self, gateway: &GatewaySettings) -> Self {
        let mut checked = self.gateway_address("/gateway/status_url", Some(&gateway.status_url)).range(
            "/gateway/poll_interval_ms",
            Some(f64::from(gateway.poll_interval_ms)),
            200.0,
            60_000.0,
            "ms",
        );
        if gateway
            .certificate_sha256
            .as_ref()
            .is_some_and(|print| print.len() != 64 || !print.bytes().all(|byte| byte.is_ascii_hexdigit()))
        {
            checked.refuse(
                "/gateway/certificate_sha256",
                "64 hexadecimal digits, as “Test this gateway” shows them.",
            );
        }
        checked.recipe("/gateway/recipe", &gateway.recipe)
    }

    /// A gateway that has a page: a modem has none.
    pub fn page(mut self, gateway: &GatewaySettings) -> Self {
        if !gateway.status_url.starts_with("http") {
            let wanted =
                "A status page's address, with http:// or https://. A modem answers by the standard.";
            self.refuse("/gateway/status_url", wanted);
        }
        self
    }

    /// A gateway's address, if there is one: a web address, `tcp://host:port` or `serial:/dev/…` of a modem.
    pub fn gateway_address(mut self, pointer: &str, address: Option<&str>) -> Self {
        if let Some(device) = address.and_then(|address| address.strip_prefix("serial:")) {
            let (path, baud) = device.split_once("?baud=").unwrap_or((device, "115200"));
            let rate = baud.parse::<u32>().is_ok_and(|rate| (1200..=4_000_000).contains(&rate));
            if path.is_empty() || path.contains(char::is_whitespace) || !rate {
                self.refuse(
                    pointer,
                    "A serial device, for instance serial:/dev/ttyUSB2 or serial:/dev/ttyUSB2?baud=115200.",
                );
            }
            return self;
        }
        let Some(modem) = address.and_then(|address| address.strip_prefix("tcp://")) else {
            return self.address(pointer, address);
        };
        let parts = modem.trim_end_matches('/').rsplit_once(':');
        let fine = parts.is_some_and(|(host, port)| {
            !host.is_empty()
                && !host.contains(['/', '\\', '@', '?', '#'])
                && !host.contains(char::is_whitespace)
                && port.parse::<u16>().is_ok_and(|port| port > 0)
        });
        if !fine {
            self.refuse(pointer, "A modem's address with its port, for instance tcp://192.168.1.1:5000.");
        }
        self
    }

    /// How a kind of gateway is asked and read.
    pub fn recipe(self, pointer: &str, recipe: &GatewayRecipe) -> Self {
        let mut checked = self.text(&format!("{pointer}/body"), &recipe.body);
        checked.headers(&format!("{pointer}/headers"), &recipe.headers);
        if let Login::Steps { steps } = &recipe.login {
            if steps.is_empty() || steps.len() > 6 {
                checked.refuse(&format!("{pointer}/login/steps"), "One to six requests.");
            }
            for (at, step) in steps.iter().enumerate() {
                checked.login_step(&format!("{pointer}/login/steps/{at}"), step);
            }
        }
        if let Some(map) = &recipe.map {
            if map.carriers.is_empty() {
                checked.refuse(
                    &format!("{pointer}/map/carriers"),
                    "At least one place where carriers stand, for instance /radio/carriers.",
                );
            }
            for (kind, groups) in [("carriers", &map.carriers), ("neighbours", &map.neighbours)] {
                for (at, group) in groups.iter().enumerate() {
                    checked.group(&format!("{pointer}/map/{kind}/{at}"), group);
                }
            }
            if let Some(mode) = &map.mode {
                checked.field_at(&format!("{pointer}/map/mode"), mode);
            }
        }
        checked.page_checks(&format!("{pointer}/checks"), &recipe.checks);
        for (at, read) in recipe.modem_reads.iter().enumerate() {
            checked.modem_read(&format!("{pointer}/modem_reads/{at}"), read);
        }
        if let Some(lock) = &recipe.lock {
            checked.lock(&format!("{pointer}/lock"), lock);
        }
        checked
    }

    fn page_checks(&mut self, pointer: &str, checks: &PageChecks) {
        for (list, conditions) in [("must_hold", &checks.must_hold), ("no_service", &checks.no_service)] {
            for (at, condition) in conditions.iter().enumerate() {
                let pointer = format!("{pointer}/{list}/{at}");
                if !is_pointer(&condition.at) {
                    self.refuse(&format!("{pointer}/at"), POINTER);
                }
                if condition.is.trim().is_empty() {
                    self.refuse(
                        &format!("{pointer}/is"),
                        "The value that has to stand there, 0 or ok for instance.",
                    );
                }
            }
        }
        let listed = checks.must_hold.len().max(checks.no_service.len()).max(checks.login_signs.len());
        if listed > MOST_CONDITIONS {
            self.refuse(pointer, format!("At most {MOST_CONDITIONS} of each."));
        }
    }

    fn headers(&mut self, pointer: &str, headers: &[Named]) {
        for (at, header) in headers.iter().enumerate() {
            let token = !header.name.is_empty()
                && header.name.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"-_".contains(&byte));
            if !token || header.value.contains(char::is_control) {
                self.refuse(
                    &format!("{pointer}/{at}"),
                    "A header's name and value, for instance Accept: application/json.",
                );
            }
        }
    }

    fn login_step(&mut self, pointer: &str, step: &LoginStep) {
        // Names and passwords go to the gateway itself and nowhere else.
        if !is_own_path(&step.path) {
            self.refuse(&format!("{pointer}/path"), "A path on the gateway itself, for instance /login.");
        }
        self.headers(&format!("{pointer}/headers"), &step.headers);
        for (at, kept) in step.keep.iter().enumerate() {
            if !kept.value.starts_with("header:") && !is_pointer(&kept.value) {
                self.refuse(&format!("{pointer}/keep/{at}"), format!("{POINTER} Or header: and a name."));
            }
        }
        if step.must_hold.as_ref().is_some_and(|wanted| !is_pointer(&wanted.name)) {
            self.refuse(&format!("{pointer}/must_hold"), POINTER);
        }
    }

    fn group(&mut self, pointer: &str, group: &CarrierGroup) {
        if !is_pointer(&group.at) {
            self.refuse(&format!("{pointer}/at"), POINTER);
        }
        if !group.fields.iter().any(|one| one.field == PageField::Technology) {
            self.refuse(
                pointer,
                "Whether these carriers are LTE or NR must be known: point at it, or say it of all.",
            );
        }
        for (at, field) in group.fields.iter().enumerate() {
            self.field_at(&format!("{pointer}/fields/{at}"), field);
            if group.fields[..at].iter().any(|earlier| earlier.field == field.field) {
                self.refuse(&format!("{pointer}/fields/{at}"), "This field is there twice.");
            }
        }
    }

    fn field_at(&mut self, pointer: &str, field: &FieldAt) {
        if !is_pointer(&field.at) {
            self.refuse(&format!("{pointer}/at"), POINTER);
        }
        if field.or.len() > MOST_CONDITIONS || !field.or.iter().all(|at| is_pointer(at)) {
            self.refuse(&format!("{pointer}/or"), POINTER);
        }
        if !field.scale.is_finite() || field.scale == 0.0 {
            self.refuse(
                &format!("{pointer}/scale"),
                "A number other than 0, for instance 0.1 where the page shows tenths.",
            );
        }
    }

    fn lock(&mut self, pointer: &str, lock: &LockRecipe) {
        if let Some(request) = &lock.request {
            for (name, path, may_be_empty) in
                [("path", &request.path, false), ("undo_path", &request.undo_path, true)]
            {
                if !(is_own_path(path) || may_be_empty && path.is_empty()) {
                    self.refuse(
                        &format!("{pointer}/request/{name}"),
                        "A path on the gateway itself, for instance /lock.",
                    );
                }
            }
            if !request.body.contains("${") && !request.path.contains("${") {
                self.refuse(
                    &format!("{pointer}/request/body"),
                    "Where the bands go must be said, for instance {\"lte\": [${lte_bands}], \"nr\": [${nr_bands}]}.",
                );
            }
            if request.undo_body.is_empty() && request.undo_path.is_empty() {
                self.refuse(
                    &format!("{pointer}/request/undo_body"),
                    "What takes the lock away must be known before one is set.",
                );
            }
        }
        if !lock.commands.is_empty() && lock.undo_commands.is_empty() {
            self.refuse(
                &format!("{pointer}/undo_commands"),
                "The command that takes the lock away must be known before one is set.",
            );
        }
        if lock.request.is_none() && lock.commands.is_empty() {
            self.refuse(pointer, "A request or a command that sets a lock.");
        }
        for (name, commands) in [("commands", &lock.commands), ("undo_commands", &lock.undo_commands)] {
            for (at, command) in commands.iter().enumerate() {
                if !is_lock_command(command) {
                    self.refuse(
                        &format!("{pointer}/{name}/{at}"),
                        "One command a line that begins with AT and sets bands, for instance AT+NAME=\"${access}\",${lte_mask_hex}. Identity numbers are not written.",
                    );
                }
            }
        }
        if lock.reattach_s != 0.0 && !(5.0..=300.0).contains(&lock.reattach_s) {
            self.refuse(&format!("{pointer}/reattach_s"), "Between 5 and 300\u{202f}s.");
        }
    }

    fn modem_read(&mut self, pointer: &str, read: &ModemRead) {
        if !is_question(&read.command) {
            self.refuse(
                &format!("{pointer}/command"),
                "A question only: AT+NAME, AT+NAME? or AT+NAME=\"text\". Commands that set something are not sent.",
            );
        }
        if !read.answer.starts_with(['+', '^', '$', '!', '#', '*']) || !read.answer.contains('{') {
            self.refuse(
                &format!("{pointer}/answer"),
                "One line of the answer with fields in braces, for instance +NAME: {rsrp_dbm},*,{sinr_db}.",
            );
        }
        for (at, field) in read.fields.iter().enumerate() {
            self.field_at(&format!("{pointer}/fields/{at}"), field);
        }
    }
}

/// A command that may set bands: one line, and nothing that writes a device's identity number.
fn is_lock_command(command: &str) -> bool {
    let upper = command.to_uppercase();
    let named = command
        .strip_prefix("AT")
        .is_some_and(|rest| rest.starts_with(['+', '^', '$', '!', '#', '*', '%']) && rest.len() > 2);
    let identity = ["IMEI", "EGMR", "CGSN", "IMSI", "SN="].iter().any(|word| upper.contains(word));
    named && !identity && !command.contains([';', '\r', '\n'])
}

/// A command that asks: nothing behind `=` but one quoted word. What sets a modem, its identity number above all, has
/// numbers there.
fn is_question(command: &str) -> bool {
    let Some(rest) = command.strip_prefix("AT") else { return false };
    let (name, quoted) = match rest.split_once('=') {
        Some((name, value)) => (name, Some(value)),
        None => (rest.strip_suffix('?').unwrap_or(rest), None),
    };
    let named = name.len() > 1
        && name.starts_with(['+', '^', '$', '!', '#', '*'])
        && name[1..].bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
    let word = quoted.is_none_or(|value| {
        value.len() > 2
            && value.strip_prefix('"').and_then(|value| value.strip_suffix('"')).is_some_and(|inner| {
                inner.bytes().all(|byte| byte.is_ascii_alphabetic() || byte == b'_' || byte == b' ')
            })
    });
    named && word
}
