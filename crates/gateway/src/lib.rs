//! Reading a gateway: its status page over HTTP, or a modem's commands over TCP or a serial line.
//!
//! [`Driver`] reads once and answers a [`Reading`](open_beacon_domain::model::Reading); [`Watcher`] looks again and again
//! and tells what state the link is in; [`test_connection`] says all that came, for whoever sets a gateway up; [`examine`]
//! compares answers recorded one after the other and tries a recipe on them.

mod answer;
mod at;
mod clock;
mod close;
mod driver;
mod fields;
mod find;
mod html;
mod http;
mod page;
mod sound;
mod suggest;
mod watch;
mod workshop;

pub use at::{Answers, AtDriver, is_modem, read_answers};
pub use clock::Clock;
pub use close::{CloseLook, test_connection};
pub use driver::Driver;
pub use fields::{MapError, read_fields};
pub use http::{DriverError, HttpDriver, LoginAttempts};
pub use page::{looks_like, parse_page};
pub use suggest::suggest_map;
pub use watch::{LinkState, LinkStatus, Look, Watcher, fingerprint};
pub use workshop::{
    AnswerRead, AnswerTried, FieldMotion, LineUse, Motion, PageRecorder, PageRecording, RecipeProposal,
    RecordedAnswer, Workshop, examine, without_secrets,
};
