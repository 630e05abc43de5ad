//! The recipe's workshop: which figures of a page move, what is proposed of that, whether a recipe reads what was recorded.

use super::settings;
use open_beacon_domain::check::Checker;
use open_beacon_domain::model::*;
use open_beacon_gateway::*;
use open_beacon_simulator::door::{PASSWORD, USER};
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::StandIn;
use proptest::prelude::*;
use serde_json::{Value, json};
use std::time::Duration;

fn recording(bodies: impl IntoIterator<Item = (LineUse, String)>) -> PageRecording {
    let answers = bodies.into_iter().enumerate().map(|(at, (line, body))| RecordedAnswer {
        line,
        after_ms: 1000 * at as u32,
        body,
        expected: None,
    });
    PageRecording { answers: answers.collect() }
}

/// A page as a device might write it, with an NR table that vanishes, a rate that is there under traffic only, and a page that
/// renews itself every two seconds.
fn web_page(at: u32, line: LineUse) -> String {
    let renewed = at / 2;
    let nr = format!(
        "<h3>5G NR</h3><table><tr><td>Band</td><td>n78</td></tr><tr><td>ARFCN</td><td>636666</td></tr><tr><td>PCI</td><td>611</td></tr>\
         <tr><td>RSRP</td><td>-{} dBm</td></tr></table>",
        88 + renewed % 3
    );
    let rate = if line == LineUse::Traffic { 40 + at } else { 0 };
    format!(
        "<html><body><h3>LTE</h3><table><tr><td>Band</td><td>B3</td></tr><tr><td>EARFCN</td><td>1300</td></tr>\
         <tr><td>PCI</td><td>87</td></tr><tr><td>RSRP</td><td>-{} dBm</td></tr><tr><td>SINR</td><td>{} dB</td></tr></table>{}\
         <h3>Traffic</h3><table><tr><td>Mbit/s</td><td>{rate}</td></tr><tr><td>IMEI</td><td>490154203237518</td></tr></table>\
         </body></html>",
        97 + renewed % 4,
        12 - renewed % 2,
        if at == 4 { String::new() } else { nr }
    )
}

fn lines(of: u32) -> impl Iterator<Item = (u32, LineUse)> {
    (0..of).map(move |at| (at, if at < of / 2 { LineUse::Idle } else { LineUse::Traffic }))
}

fn web() -> PageRecording {
    recording(lines(20).map(|(at, line)| (line, web_page(at, line))))
}

fn motion<'a>(workshop: &'a Workshop, ending: &str) -> &'a FieldMotion {
    let mut fields = workshop.fields.iter().filter(|field| field.at.to_lowercase().ends_with(ending));
    fields.next().unwrap_or_else(|| panic!("no {ending} in {:#?}", workshop.fields))
}

#[test]
fn what_moves_stands_still_and_vanishes_is_told_apart() {
    let workshop = examine(&GatewayRecipe::default(), &web());
    assert_eq!(motion(&workshop, "lte/rows/rsrp").motion, Motion::Moves);
    assert_eq!(motion(&workshop, "lte/rows/band").motion, Motion::StandsStill);
    assert_eq!(motion(&workshop, "traffic/rows/mbit~1s").motion, Motion::MovesUnderTraffic);
    let vanished = motion(&workshop, "nr/rows/arfcn");
    assert_eq!((vanished.motion, vanished.seen, vanished.of), (Motion::ComesAndGoes, 19, 20));
    let rsrp = motion(&workshop, "lte/rows/rsrp");
    // Renewed every second answer: ten pages, nine changes, the fifth of them between the two parts.
    assert_eq!((rsrp.changes_idle, rsrp.changes_traffic), (4, 5));
    assert_eq!((rsrp.first.as_str(), rsrp.last.as_str()), ("-97 dBm", "-98 dBm"));
    assert!(workshop.tried.iter().all(|tried| tried.read.reading.is_none()), "the plain recipe reads JSON");
    let order: Vec<Motion> = workshop.fields.iter().map(|field| field.motion).collect();
    assert!(order.is_sorted(), "{order:?}");
}

#[test]
fn how_often_a_page_renews_itself_is_read_off_the_answers() {
    let steady = lines(20).map(|(at, line)| {
        (line, web_page(at, LineUse::Idle).replace("vanish", "") + &" ".repeat((at / 2 % 2) as usize))
    });
    let every = examine(&GatewayRecipe::default(), &recording(steady)).renewed_every_s;
    assert!(every.is_some_and(|every| (every - 2.0).abs() < 0.6), "{every:?}");
}

#[test]
fn what_is_proposed_reads_every_whole_answer_and_refuses_the_torn_one() {
    let mut web = web();
    let whole = web.answers[7].body.clone();
    web.answers[7].body = whole[..whole.find("EARFCN").unwrap()].to_owned();
    let workshop = examine(&GatewayRecipe::default(), &web);
    let proposal = workshop.proposal.expect("RSRP stands on it");
    assert_eq!((proposal.format, proposal.reads), (PageFormat::Html, 19));
    assert_eq!(proposal.checks.end_mark, "</html>");
    // NR shows no SINR: it is not asked of every carrier.
    assert_eq!(
        proposal.checks.required,
        [PageField::RsrpDbm, PageField::Band, PageField::Channel, PageField::Pci]
    );
    let recipe = GatewayRecipe {
        format: proposal.format,
        map: Some(proposal.map),
        checks: proposal.checks,
        ..GatewayRecipe::default()
    };
    let mut settings = settings("http://192.0.2.1/");
    settings.recipe = recipe.clone();
    assert_eq!(Checker::default().gateway(&settings).done(), [], "a proposal can be saved");
    let tried = examine(&recipe, &web).tried;
    let torn = tried[7].read.problem.as_deref().unwrap_or_default();
    assert!(torn.contains("torn"), "{torn}");
    let carriers = |at: usize| tried[at].read.reading.as_ref().map(|reading| reading.carriers.len());
    assert_eq!((carriers(0), carriers(4)), (Some(2), Some(1)), "without NR, LTE is LTE");
    let first = &tried[0].read.reading.as_ref().unwrap().carriers;
    let lte = first.iter().find(|carrier| carrier.technology == Technology::Lte).unwrap();
    assert_eq!(
        (lte.band, lte.channel, lte.rsrp_dbm, lte.sinr_db),
        (Some(3), Some(1300), Some(-97.0), Some(12.0))
    );
}

#[test]
fn a_code_that_says_that_all_went_well_has_to_stand_there() {
    let body =
        |rsrp: i32| json!({"code": 0, "data": {"lte": {"rsrp": rsrp, "band": 3, "code": rsrp}}}).to_string();
    let workshop =
        examine(&GatewayRecipe::default(), &recording((0..6).map(|at| (LineUse::Idle, body(-90 - at)))));
    let checks = workshop.proposal.unwrap().checks;
    assert_eq!(checks.must_hold, [PageCondition { at: "/code".into(), is: "0".into() }]);
    assert_eq!(checks.end_mark, "", "half of a JSON answer is none anyway");
    let nothing = recording([(LineUse::Idle, json!({"uptime": 7}).to_string())]);
    assert_eq!(examine(&GatewayRecipe::default(), &nothing).proposal, None);
    assert_eq!(examine(&GatewayRecipe::default(), &PageRecording::default()).fields, []);
}

#[test]
fn a_recording_is_its_recipes_own_test() {
    let mut web = web();
    let proposal = examine(&GatewayRecipe::default(), &web).proposal.unwrap();
    let mut recipe =
        GatewayRecipe { format: proposal.format, map: Some(proposal.map), ..GatewayRecipe::default() };
    let tried = examine(&recipe, &web).tried;
    for (answer, tried) in web.answers.iter_mut().zip(tried) {
        assert_eq!(tried.as_expected, None);
        answer.expected = Some(tried.read);
    }
    // As it comes back from a file.
    let back: PageRecording = serde_json::from_str(&serde_json::to_string(&web).unwrap()).unwrap();
    assert_eq!(back, web);
    assert!(examine(&recipe, &back).tried.iter().all(|tried| tried.as_expected == Some(true)));
    let carriers = &mut recipe.map.as_mut().unwrap().carriers;
    let field = carriers[0].fields.iter_mut().find(|field| field.field == PageField::RsrpDbm).unwrap();
    field.scale = 0.1;
    let off = examine(&recipe, &back).tried.iter().filter(|tried| tried.as_expected == Some(false)).count();
    assert!(off >= 19, "{off}");
}

#[tokio::test]
async fn an_unknown_gateway_is_recorded_signed_in_to_once_and_its_proposal_reads_it() {
    let stand_in = StandIn::new(7, Duration::from_millis(40));
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(axum::serve(listener, gateway_router(stand_in.clone())).into_future());
    let step = LoginStep {
        method: AskMethod::Post,
        path: "/door/login".into(),
        body: "user=${user}&password=${password}".into(),
        ..LoginStep::default()
    };
    for page in ["/other.json", "/status.xml", "/door/status.json"] {
        let mut settings = settings(&format!("{address}{page}"));
        if page.starts_with("/door") {
            settings.recipe.login = Login::Steps { steps: vec![step.clone()] };
        }
        let secrets = GatewaySecrets { user: USER.into(), password: PASSWORD.into() };
        let recorder = PageRecorder::new(&settings, secrets, LoginAttempts::default()).unwrap();
        let mut bodies = Vec::new();
        for _ in 0..12 {
            bodies.push((LineUse::Idle, recorder.answer().await.unwrap()));
            tokio::time::sleep(Duration::from_millis(25)).await;
        }
        let recording = recording(bodies);
        let workshop = examine(&settings.recipe, &recording);
        let proposal = workshop.proposal.unwrap_or_else(|| panic!("nothing proposed for {page}"));
        assert_eq!(proposal.reads, 12, "{page}: {proposal:?}");
        assert!(proposal.checks.required.contains(&PageField::RsrpDbm), "{page}");
    }
    drop(stand_in);
    let nobody = settings("http://127.0.0.1:9/");
    let recorder = PageRecorder::new(&nobody, GatewaySecrets::default(), LoginAttempts::default()).unwrap();
    assert!(matches!(recorder.answer().await, Err(DriverError::Unreachable(_))));
}

fn scrubbed(page: &Value, known: &[&str]) -> String {
    let known: Vec<String> = known.iter().map(|&one| one.to_owned()).collect();
    without_secrets(&page.to_string(), Some(page), &known)
}

#[test]
fn nothing_secret_is_left_in_a_recording_and_cells_are() {
    let page = json!({"device": {"IMEI": 490_154_203_237_518_u64, "serial_number": "SN-77-AB12", "wifi": {"ssid": "Hill farm", "wpa_psk": "correct horse"}},
        "wan": {"mac": "AC:DE:48:00:11:22", "ip": "203.0.113.77"}, "sim": {"iccid": "8947000012345678901", "pin": "8251"},
        "session_token": "f00dcafe9", "note": "signed in as warden with lantern",
        "lte": {"rsrp": -97, "pci": 82, "eci": 26_112_258, "earfcn": 1300}, "nr": {"nci": 4_299_161_602_u64, "load": 0.123_456_789_012_345_6}});
    let text = scrubbed(&page, &["warden", "lantern"]);
    for secret in [
        "490154203237518",
        "SN-77-AB12",
        "Hill farm",
        "correct horse",
        "AC:DE:48:00:11:22",
        "203.0.113.77",
        "8947000012345678901",
        "8251",
        "f00dcafe9",
        "warden",
        "lantern",
    ] {
        assert!(!text.contains(secret), "{secret} is in {text}");
    }
    let back: Value = serde_json::from_str(&text).expect("it is still JSON");
    assert_eq!((&back["lte"], &back["nr"]), (&page["lte"], &page["nr"]), "cells and levels stay");
    // However it is written, and however many there are.
    let page = json!({"wifi_key": "a&b<\"c\"ü", "token": (0..3000).map(|at| format!("word{at:05}")).collect::<Vec<_>>()});
    let written = format!(
        "<input name=key value=\"a&amp;b&lt;&quot;c&quot;ü\"><a href=\"/?k=a%26b%3C%22c%22%C3%BC\">word02999, {page}"
    );
    let text = without_secrets(&written, Some(&page), &[]);
    for secret in ["a&amp;b", "a%26b", "a&b", "word02999", "word00000"] {
        assert!(!text.contains(secret), "{secret} is in {}", &text[..200]);
    }
    // In a web page the value stands in a cell beside its name.
    let html = "<html><body><h3>SIM</h3><table><tr><td>IMSI:</td><td>001010123456</td></tr><tr><td>PCI</td><td>82</td></tr></table></body></html>";
    let page = parse_page(html, PageFormat::Html).unwrap();
    let text = without_secrets(html, Some(&page), &[]);
    assert!(!text.contains("001010123456") && text.contains("<td>82</td>"), "{text}");
}

proptest! {
    /// Whatever a password is, it is not in what is recorded, and what is recorded twice over is the same.
    #[test]
    fn a_password_never_gets_into_a_recording(password in "[A-Za-z0-9!$%+=.~]{4,16}", before in "[ \",:>]", after in "[ \",;<]") {
        prop_assume!(password.chars().any(|c| c.is_ascii_alphanumeric() && c != 'x' && c != '1'));
        let body = format!("{{\"a\":{before}{password}{after}, \"rsrp\": -97}}");
        let text = without_secrets(&body, None, std::slice::from_ref(&password));
        prop_assert!(!text.contains(&password), "{text}");
        prop_assert_eq!(without_secrets(&text, None, &[password]), text.clone());
        prop_assert_eq!(text.chars().count(), body.chars().count());
    }
}
