//! The words that status pages use for things, in several languages, folded to plain lower-case letters.

use open_beacon_core::model::{CarrierRole, Technology};

/// What a label stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Term {
    Rsrp,
    Rsrq,
    Sinr,
    Rssi,
    Band,
    Channel,
    SsbChannel,
    Bandwidth,
    Pci,
    CellIdentity,
    Mode,
    Rank,
    Cqi,
    Mcs,
    TimingAdvance,
    TransmitPower,
    /// Known, but not kept by this program.
    Passed,
}

/// How sure a label is: its own name, or a word that pages use for several things.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Sure {
    Yes,
    Loose,
}

use Sure::{Loose, Yes};
use Term::*;

/// Phrases, longest first within a term does not matter: the longest match in the text wins.
const LABELS: &[(Term, Sure, &[&str])] = &[
    (
        Rsrp,
        Yes,
        &[
            "rsrp",
            "reference signal received power",
            "reference signal receive power",
            "referenzsignal empfangsleistung",
            "puissance du signal de reference",
            "potencia de senal de referencia",
        ],
    ),
    (
        Rsrp,
        Loose,
        &[
            "signal strength",
            "signal power",
            "signal level",
            "signalstarke",
            "signalstaerke",
            "empfangsleistung",
            "empfangspegel",
            "puissance du signal",
            "puissance signal",
            "intensite du signal",
            "force du signal",
            "intensidad de la senal",
            "intensidad de senal",
            "potencia de senal",
            "potencia de la senal",
            "potencia de senal recibida",
            "puissance du signal recu",
            "niveau de signal",
            "niveau du signal",
            "potenza del segnale",
            "potenza segnale",
            "potenza del segnale ricevuto",
            "intensita del segnale",
            "livello del segnale",
            "potencia do sinal",
            "potencia do sinal recebido",
            "intensidade do sinal",
            "forca do sinal",
            "nivel do sinal",
            "signalstyrke",
            "signalstyrka",
            "signalniva",
            "moc sygnalu",
            "sila sygnalu",
            "poziom sygnalu",
        ],
    ),
    (Rsrq, Yes, &["rsrq", "reference signal received quality", "reference signal receive quality"]),
    (
        Rsrq,
        Loose,
        &[
            "signal quality",
            "signalqualitat",
            "signalqualitaet",
            "qualite du signal",
            "qualite signal",
            "calidad de senal",
            "calidad de la senal",
            "qualite du signal recu",
            "qualita del segnale",
            "qualidade do sinal",
            "signalkvalitet",
            "jakosc sygnalu",
        ],
    ),
    (
        Sinr,
        Yes,
        &[
            "sinr",
            "snr",
            "rssnr",
            "cinr",
            "signal to noise ratio",
            "signal to noise",
            "signal noise ratio",
            "signal to interference plus noise ratio",
            "signal to interference and noise ratio",
            "signal to interference noise ratio",
            "signal rausch verhaltnis",
            "signal rausch verhaeltnis",
            "signal rausch abstand",
            "storabstand",
            "rapport signal sur bruit",
            "rapport signal bruit",
            "rapport signal a bruit",
            "relacion senal ruido",
            "relacion senal a ruido",
            "rapporto segnale rumore",
            "relacao sinal ruido",
            "signal stoy forhold",
            "signal til stoy forhold",
            "signal brusforhallande",
            "signal brus forhallande",
            "stosunek sygnalu do szumu",
            "stosunek sygnal szum",
        ],
    ),
    (
        Rssi,
        Yes,
        &["rssi", "received signal strength indicator", "received signal strength", "empfangsfeldstarke"],
    ),
    (
        Band,
        Yes,
        &[
            "band",
            "bands",
            "freq band",
            "frequency band",
            "frequency bands",
            "operating band",
            "active band",
            "active bands",
            "band number",
            "frequenzband",
            "bande",
            "bande de frequence",
            "bande de frequences",
            "banda",
            "banda de frecuencia",
            "banda di frequenza",
            "banda de frequencia",
            "frekvensband",
            "pasmo",
            "pasmo czestotliwosci",
        ],
    ),
    (
        Channel,
        Yes,
        &[
            "earfcn",
            "nrarfcn",
            "nr arfcn",
            "arfcn",
            "channel",
            "channel number",
            "frequency channel",
            "kanal",
            "kanalnummer",
            "canal",
            "numero de canal",
            "canale",
            "numero canale",
            "numero do canal",
        ],
    ),
    (SsbChannel, Yes, &["ssb arfcn", "ssb channel", "ssb nr arfcn", "ssb nrarfcn"]),
    (
        Bandwidth,
        Yes,
        &[
            "bandwidth",
            "bw",
            "channel bandwidth",
            "channel width",
            "bandbreite",
            "kanalbandbreite",
            "largeur de bande",
            "bande passante",
            "largeur de canal",
            "larghezza di banda",
            "largura de banda",
            "bandbredde",
            "bandbredd",
            "szerokosc pasma",
            "ancho de banda",
            "ancho de canal",
        ],
    ),
    (
        Pci,
        Yes,
        &[
            "pci",
            "phys cell id",
            "phy cell id",
            "physical cell id",
            "physical cell identity",
            "physical cellid",
            "physical id",
            "physikalische zell id",
            "physikalische zellen id",
            "id cellule physique",
            "identifiant physique de cellule",
            "id fisico de celda",
            "id fisica de celda",
            "identifiant physique de la cellule",
            "physische zell id",
            "physische zellen id",
            "physische zellkennung",
            "physikalische zellkennung",
            "id de cellule physique",
            "identifiant de cellule physique",
            "identite de cellule physique",
            "id de celda fisica",
            "id celda fisica",
            "identificador fisico de celda",
            "identificador de celda fisica",
            "id cella fisica",
            "id fisico cella",
            "id fisico della cella",
            "identificativo fisico della cella",
            "id fisico da celula",
            "id da celula fisica",
            "identificador fisico da celula",
            "fysisk celle id",
            "fysisk celleid",
            "fysisk celleidentitet",
            "fysiskt cell id",
            "fysiskt cellid",
            "fysisk cell id",
            "fizyczny identyfikator komorki",
            "fizyczne id komorki",
        ],
    ),
    (
        CellIdentity,
        Yes,
        &[
            "cell id",
            "cellid",
            "cell identity",
            "cell identifier",
            "eci",
            "nci",
            "cgi",
            "ecgi",
            "ncgi",
            "global cell id",
            "zell id",
            "zellen id",
            "zellkennung",
            "id cellule",
            "identifiant cellule",
            "identifiant de cellule",
            "id de celda",
            "id celda",
            "id cella",
            "identificativo cella",
            "id celula",
            "id da celula",
            "celle id",
            "celleid",
            "id komorki",
            "identyfikator komorki",
        ],
    ),
    (
        Mode,
        Yes,
        &[
            "network type",
            "network mode",
            "connection type",
            "connection mode",
            "system mode",
            "service type",
            "access technology",
            "radio access technology",
            "rat",
            "mode",
            "technology",
            "netzwerktyp",
            "netztyp",
            "netzmodus",
            "verbindungsart",
            "type de reseau",
            "type de connexion",
            "mode reseau",
            "tipo de red",
            "modo de red",
            "tipo de conexion",
            "tecnologia",
            "technologia",
            "technologie",
            "technik",
            "teknologi",
            "teknik",
            "tipo di rete",
            "tipo de rede",
            "nettverkstype",
            "natverkstyp",
            "typ sieci",
        ],
    ),
    (Rank, Yes, &["rank", "rank indicator", "mimo rank", "ri"]),
    (Cqi, Yes, &["cqi", "channel quality indicator", "channel quality indication"]),
    (Mcs, Yes, &["mcs", "dl mcs"]),
    (TimingAdvance, Yes, &["timing advance", "ta"]),
    (
        TransmitPower,
        Yes,
        &[
            "tx power",
            "transmit power",
            "txpower",
            "sendeleistung",
            "puissance d emission",
            "potencia de transmision",
        ],
    ),
    (
        Passed,
        Yes,
        &[
            "ul earfcn",
            "earfcn ul",
            "uplink earfcn",
            "ul channel",
            "uplink channel",
            "ul bandwidth",
            "uplink bandwidth",
            "ul mcs",
            "enb",
            "enb id",
            "enodeb id",
            "gnb",
            "gnb id",
            "tac",
            "lac",
            "plmn",
            "mcc",
            "mnc",
            "operator",
            "operateur",
            "betreiber",
            "operador",
            "ecio",
            "rscp",
            "uptime",
        ],
    ),
];

/// Words beside a label that say which carrier is meant.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Modifier {
    Technology(Technology),
    Role(CarrierRole),
    /// A carrier's number where several are listed.
    Index(u8),
    /// The serving cells are meant.
    Serving,
    /// A word of no weight.
    Filler,
    /// A neighbour cell's: not one of our carriers.
    Neighbour,
}

/// Letters without accents, lower case.
pub(super) fn folded(text: &str) -> String {
    text.to_lowercase()
        .chars()
        .map(|c| match c {
            'ä' | 'à' | 'â' | 'á' | 'ã' | 'å' | 'ą' | 'æ' => 'a',
            'ö' | 'ô' | 'ó' | 'ò' | 'õ' | 'ø' => 'o',
            'ü' | 'û' | 'ú' | 'ù' => 'u',
            'é' | 'è' | 'ê' | 'ę' => 'e',
            'ñ' | 'ń' => 'n',
            'í' | 'î' | 'ì' => 'i',
            'ç' | 'ć' => 'c',
            'ł' => 'l',
            'ś' => 's',
            'ź' | 'ż' => 'z',
            other => other,
        })
        .collect()
}

/// The longest label at the beginning of `words` (already folded), with how many words it takes.
pub(super) fn label_at(words: &[&str]) -> Option<(Term, Sure, usize)> {
    let mut best: Option<(Term, Sure, usize)> = None;
    for (term, sure, phrases) in LABELS {
        for phrase in *phrases {
            let mut taken = 0;
            let fits = phrase.split(' ').all(|wanted| {
                taken += 1;
                words.get(taken - 1).is_some_and(|word| *word == wanted)
            });
            if fits && best.is_none_or(|(_, _, longest)| taken > longest) {
                best = Some((*term, *sure, taken));
            }
        }
    }
    best
}

/// What a word beside a label says.
pub(super) fn modifier(word: &str) -> Option<Modifier> {
    use Modifier::{Filler, Index, Neighbour, Role, Serving};
    let lte = Modifier::Technology(Technology::Lte);
    let nr = Modifier::Technology(Technology::Nr);
    let (stem, number) = word.split_at(word.trim_end_matches(|c: char| c.is_ascii_digit()).len());
    Some(match word {
        "lte" | "4g" | "eutra" | "eutran" => lte,
        "nr" | "5g" | "nr5g" | "5gnr" | "ss" | "nsanr" => nr,
        "pcc" | "pcell" | "primary" | "primar" | "primaer" | "primaire" | "principal" | "primaria"
        | "pscell" | "glowna" | "podstawowa" => Role(CarrierRole::Primary),
        "anchor" | "anker" | "ankare" | "ancre" | "ancla" | "ancora" | "kotwica" => Role(CarrierRole::Anchor),
        "scc" | "scell" | "secondary" | "sekundar" | "sekundaer" | "secondaire" | "secundaria"
        | "secondaria" | "dodatkowa" => Role(CarrierRole::Secondary),
        "neighbour" | "neighbor" | "neighbours" | "neighbors" | "neighbouring" | "neighboring"
        | "nachbarzelle" | "nachbarzellen" | "voisine" | "voisines" | "vecinas" | "vecina" | "vicina"
        | "vicine" | "vizinha" | "vizinhas" | "nabocelle" | "naboceller" | "granncell" | "grannceller"
        | "sasiednia" | "sasiednie" => Neighbour,
        "serving" => Serving,
        "dl" | "downlink" | "cells" | "current" | "value" | "cell" | "carrier" | "component" | "rs"
        | "dbm" | "db" | "mhz" | "id" | "the" | "of" | "de" | "du" | "and" | "signal" | "radio"
        | "status" | "info" | "information" | "trager" | "traeger" | "porteuse" | "portadora" | "zelle"
        | "cellule" | "celda" | "cella" | "celula" | "celle" | "komorka" | "connected" | "connection"
        | "network" | "mobile" | "details" | "state" => Filler,
        _ if !number.is_empty() && matches!(stem, "scc" | "scell" | "cc" | "carrier" | "ca") => {
            Index(number.parse().ok()?)
        }
        _ => return None,
    })
}

/// Spellings of "not known".
pub(super) fn means_nothing(text: &str) -> bool {
    matches!(
        folded(text.trim()).as_str(),
        "" | "-"
            | "--"
            | "---"
            | "n/a"
            | "na"
            | "nan"
            | "null"
            | "none"
            | "unknown"
            | "unbekannt"
            | "inconnu"
            | "desconocido"
            | "not available"
            | "invalid"
            | "undefined"
            | "—"
            | "–"
            | "?"
    )
}
