//! How a gateway is asked and its answer read. Nothing secret is kept here: names and passwords stand in
//! [`GatewaySecrets`], which no export holds.

use super::DeviceId;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// Where the gateway's status page or modem is, and how it is read.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GatewaySettings {
    /// `http://` or `https://` of a status page; `tcp://host:port` or `serial:/dev/…?baud=115200` of a modem.
    pub status_url: String,
    /// Time between two looks, ms, 200..=60000. Looking more often than the page refreshes lets its refresh period be
    /// learned.
    #[cfg_attr(feature = "schema", schema(minimum = 200, maximum = 60000))]
    pub poll_interval_ms: u32,
    /// SHA-256 of the certificate that the user vouches for, 64 hexadecimal digits; for devices that sign their own.
    #[serde(default)]
    pub certificate_sha256: Option<String>,
    /// How it is asked and read.
    #[serde(default)]
    pub recipe: GatewayRecipe,
}

/// What signs in to a gateway. Kept apart from settings, so that neither exports nor logs hold it.
#[derive(Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GatewaySecrets {
    /// Name that signs in.
    pub user: String,
    /// Password.
    pub password: String,
}

impl std::fmt::Debug for GatewaySecrets {
    fn fmt(&self, to: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        to.write_str("GatewaySecrets(not shown)")
    }
}

/// How a kind of gateway is asked and read: what can be shared as a file.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GatewayRecipe {
    /// Name.
    pub name: String,
    /// HTTP method.
    pub method: AskMethod,
    /// Sent along with a POST.
    pub body: String,
    /// Sent along always; values may hold `${user}`, `${password}` and what login steps kept.
    pub headers: Vec<Named>,
    /// How one signs in.
    pub login: Login,
    /// Format.
    pub format: PageFormat,
    /// Where on the page each thing stands; none for the plain page of `docs/formats/gateway-status.md`.
    pub map: Option<FieldMap>,
    /// What has to hold of an answer before anything on it is a reading.
    pub checks: PageChecks,
    /// What a modem answers beyond the standard.
    pub modem_reads: Vec<ModemRead>,
    /// How it is told which bands to use; none where it cannot be, or nobody said how.
    pub lock: Option<super::LockRecipe>,
}

/// What has to hold of an answer before anything on it is a reading. What fails is a failed look with its reason, never a sample.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PageChecks {
    /// All of them have to hold.
    pub must_hold: Vec<PageCondition>,
    /// Where all of these hold, the gateway has no service; where there are none, only its own word or an empty list says so.
    pub no_service: Vec<PageCondition>,
    /// What every carrier on the page has to show.
    pub required: Vec<PageField>,
    /// What the answer ends with when it is whole, `</html>` for instance; empty where nothing is known.
    pub end_mark: String,
    /// Texts of the page that asks to be signed in to, beside any page with a field for a password.
    pub login_signs: Vec<String>,
}

/// A thing that holds of a page.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PageCondition {
    /// Where the value stands, as in [`FieldAt`]; empty: the text may stand anywhere in the answer.
    pub at: String,
    /// The value, in the page's own words; without regard to case.
    pub is: String,
}

/// How a page is asked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum AskMethod {
    /// GET.
    #[default]
    Get,
    /// POST.
    Post,
}

/// A name with its value.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Named {
    /// Name.
    pub name: String,
    /// The value.
    pub value: String,
}

/// What a page is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PageFormat {
    /// JSON.
    #[default]
    Json,
    /// XML.
    Xml,
    /// HTML.
    Html,
}

/// How one signs in.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Login {
    #[default]
    None,
    /// Name and password with each request (RFC 7617).
    Basic,
    /// Requests before the first look, and again when the session has run out.
    Steps { steps: Vec<LoginStep> },
}

/// One request of a login. Texts may hold `${…}`: names joined by `+`, then filters, as in
/// `${password+nonce|sha256}`. Names are `user`, `password`, and what was computed or kept before; text in single
/// quotes stands for itself; filters are `sha256`, `sha1`, `md5` (hexadecimal), `base64`, `upper`.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LoginStep {
    /// HTTP method.
    pub method: AskMethod,
    /// Path on the same device, `/login` for instance.
    pub path: String,
    /// Worked out before the request, in order.
    pub compute: Vec<Named>,
    /// Headers that are sent.
    pub headers: Vec<Named>,
    /// How the body is sent.
    pub send: SendAs,
    /// Body that is sent.
    pub body: String,
    /// Kept from the answer: the value is a JSON Pointer (RFC 6901) into it, or `header:` and a name.
    pub keep: Vec<Named>,
    /// The answer must hold this at this pointer, or the login has failed.
    pub must_hold: Option<Named>,
}

/// How a step's body is sent; what is put in is escaped accordingly.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SendAs {
    /// As a form.
    #[default]
    Form,
    /// As JSON.
    Json,
}

/// Where on a page each thing stands.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FieldMap {
    /// How carriers are bundled.
    #[serde(default)]
    pub mode: Option<FieldAt>,
    /// Carriers, one an entry.
    pub carriers: Vec<CarrierGroup>,
    /// Neighbour cells that the gateway lists.
    #[serde(default)]
    pub neighbours: Vec<CarrierGroup>,
}

/// Carriers of one kind: a list of them, or one object that is one carrier.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarrierGroup {
    /// JSON Pointer to the list or the object; empty for the whole page.
    pub at: String,
    /// Fields, one an entry.
    pub fields: Vec<FieldAt>,
}

/// Where one field stands, how it is written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FieldAt {
    /// Which field it is.
    pub field: PageField,
    /// JSON Pointer (RFC 6901), from the group's own place. A step `[name=RSRP]` goes into the entry of a list whose `name` is
    /// `RSRP`.
    #[serde(default)]
    pub at: String,
    /// Where else it may stand, tried in order where nothing is at `at`.
    #[serde(default)]
    pub or: Vec<String>,
    /// Unit on the page.
    #[serde(default)]
    pub unit: FieldUnit,
    /// What the number on the page is multiplied by; 0.1 for tenths.
    #[serde(default = "one")]
    pub scale: f64,
    /// Said of every such carrier, where the page does not: `lte` for a part of the page that is about LTE only.
    #[serde(default)]
    pub fixed: String,
    /// The page's own words: name what it says, value what that means.
    #[serde(default)]
    pub words: Vec<Named>,
}

fn one() -> f64 {
    1.0
}

impl FieldAt {
    /// A field as its own unit has it.
    pub fn plain(field: PageField, at: &str) -> Self {
        Self {
            field,
            at: at.to_owned(),
            or: Vec::new(),
            unit: FieldUnit::Own,
            scale: 1.0,
            fixed: String::new(),
            words: Vec::new(),
        }
    }
}

/// What a page can tell of the connection (`mode`) and of each carrier.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PageField {
    /// Mode.
    Mode,
    /// Technology.
    Technology,
    /// Role.
    Role,
    /// Band.
    Band,
    /// Channel.
    Channel,
    /// Channel kind.
    ChannelKind,
    /// Bandwidth, MHz.
    BandwidthMhz,
    /// Physical cell identity.
    Pci,
    /// Cell identity.
    CellIdentity,
    /// RSRP, dBm.
    RsrpDbm,
    /// RSRQ, dB.
    RsrqDb,
    /// SINR, dB.
    SinrDb,
    /// RSSI, dBm.
    RssiDbm,
    /// RSRP by branch, dBm.
    BranchRsrpDbm,
    /// Rank.
    Rank,
    /// Channel quality indicator.
    Cqi,
    /// Modulation and coding scheme.
    Mcs,
    /// Transmit power, dBm.
    TransmitPowerDbm,
    /// Timing advance.
    TimingAdvance,
}

/// How a number is written on a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum FieldUnit {
    /// As the field's name says: dBm, dB, MHz, a count.
    #[default]
    Own,
    /// kHz.
    Khz,
    /// Hz.
    Hz,
    /// The standard's integer code (3GPP TS 27.007 clause 8.69).
    Code,
    /// A whole number in hexadecimal.
    Hex,
}

impl Default for FieldMap {
    /// The plain page documented in `docs/formats/gateway-status.md`.
    fn default() -> Self {
        use PageField as F;
        let all = [
            (F::Technology, "/technology"),
            (F::Role, "/role"),
            (F::Band, "/band"),
            (F::Channel, "/channel"),
            (F::ChannelKind, "/channel_kind"),
            (F::BandwidthMhz, "/bandwidth_mhz"),
            (F::Pci, "/pci"),
            (F::CellIdentity, "/cell_identity"),
            (F::RsrpDbm, "/rsrp"),
            (F::RsrqDb, "/rsrq"),
            (F::SinrDb, "/sinr"),
            (F::RssiDbm, "/rssi"),
            (F::BranchRsrpDbm, "/branch_rsrp"),
            (F::Rank, "/rank"),
            (F::Cqi, "/cqi"),
            (F::Mcs, "/mcs"),
            (F::TransmitPowerDbm, "/transmit_power"),
            (F::TimingAdvance, "/timing_advance"),
        ];
        let group = |at: &str| CarrierGroup {
            at: at.to_owned(),
            fields: all.iter().map(|(field, at)| FieldAt::plain(*field, at)).collect(),
        };
        Self {
            mode: Some(FieldAt::plain(F::Mode, "/radio/mode")),
            carriers: vec![group("/radio/carriers")],
            neighbours: vec![group("/radio/neighbours")],
        }
    }
}

/// A question that a modem's maker added, and how its answer is written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ModemRead {
    /// A question only: `AT+NAME`, `AT+NAME?` or `AT+NAME="text"`.
    pub command: String,
    /// One line of the answer: `+NAME: {rsrp_dbm},{sinr_db},*` — fields in braces, `*` for what is passed over.
    pub answer: String,
    /// Of which carrier it speaks.
    pub technology: super::Technology,
    /// Units and scales of fields that are not in their own.
    #[serde(default)]
    pub fields: Vec<FieldAt>,
}

/// A phone or other device that was let in over the local network.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PairedDevice {
    /// Identifier.
    pub id: DeviceId,
    /// Name.
    pub name: String,
    /// When it was let in.
    pub paired_at: DateTime<Utc>,
    /// When it asked last.
    pub last_seen_at: Option<DateTime<Utc>>,
    /// Turned away since then.
    pub revoked_at: Option<DateTime<Utc>>,
}
