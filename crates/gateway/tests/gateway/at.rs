//! The standard's commands over TCP: worked answers, the stand-in as a modem, and every fault it can have.

use open_beacon_domain::model::*;
use open_beacon_gateway::*;
use open_beacon_simulator::at::serve_at;
use open_beacon_simulator::serve::{StandIn, control_router};
use std::time::Duration;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpListener;

fn said(cesq: &str, cops: &str, cereg: &str, c5greg: &str) -> Answers {
    let some = |text: &str| (!text.is_empty()).then(|| text.to_owned());
    Answers {
        cesq: some(cesq),
        csq: None,
        cops: some(cops),
        cereg: some(cereg),
        c5greg: some(c5greg),
        more: Vec::new(),
    }
}

fn problem(answers: &Answers) -> String {
    match read_answers(answers) {
        Err(DriverError::Nonsense { problem, .. }) => problem,
        other => panic!("{other:?}"),
    }
}

/// Worked by the tables: RSRP code 43 is −98 to −97 dBm (TS 36.133 table 9.1.4-1), RSRQ 20 is −10 to −9.5 dB (9.1.7-1),
/// SS-RSRP 68 is −89 to −88 dBm, SS-RSRQ 65 is −11 to −10.5 dB, SS-SINR 76 is 14.5 to 15 dB (TS 38.133 tables 10.1.6.1-1,
/// 10.1.11.1-1, 10.1.16.1-1).
#[test]
fn answers_are_read_by_the_tables() {
    let nsa = read_answers(&said(
        "99,99,255,255,20,43,65,68,76",
        "0,0,\"Hulder, mobil\",13",
        "2,1,\"1A2B\",\"0020150A\",7",
        "2,0",
    ))
    .unwrap();
    assert_eq!(nsa.mode, ConnectionMode::Nsa);
    let (lte, nr) = (&nsa.carriers[0], &nsa.carriers[1]);
    assert_eq!((lte.rsrp_dbm, lte.rsrq_db, lte.role), (Some(-97.5), Some(-9.75), CarrierRole::Anchor));
    assert_eq!(lte.cell_identity, Some(0x0020_150A));
    assert_eq!((nr.rsrp_dbm, nr.rsrq_db, nr.sinr_db), (Some(-88.5), Some(-10.75), Some(14.75)));

    let lte = read_answers(&said("99,99,255,255,20,43", "0,2,\"00101\",7", "0,5", "")).unwrap();
    assert_eq!((lte.mode, lte.carriers.len()), (ConnectionMode::Lte, 1), "six fields, before NR");
    let sa = read_answers(&said(
        "99,99,255,255,255,255,65,68,76",
        "0,0,\"x\",11",
        "",
        "2,1,\"1A2B\",\"010040000A\",11",
    ));
    let sa = sa.unwrap();
    assert_eq!((sa.mode, sa.carriers[0].cell_identity), (ConnectionMode::Sa, Some(0x01_0040_000A)));
    let none = read_answers(&said("99,99,255,255,255,255,255,255,255", "0", "2,2", "2,0")).unwrap();
    assert_eq!((none.mode, none.carriers.len()), (ConnectionMode::NoService, 0));
    // +CSQ 20 is −113 + 2 · 20 = −73 dBm (TS 27.007 clause 8.5).
    let old = read_answers(&Answers { csq: Some("20,99".into()), ..Answers::default() }).unwrap();
    assert_eq!(old.carriers[0].rssi_dbm, Some(-73.0));
}

#[test]
fn what_the_standard_does_not_know_is_named() {
    let cesq = |text: &str| problem(&said(text, "", "", ""));
    assert_eq!(cesq("1,2,3"), "+CESQ has six or nine fields");
    assert!(cesq("99,99,255,255,20,120").contains("codes of this kind run from 0 to 97"));
    assert!(cesq("99,99,255,255,20,-97").contains("no code"), "a value in place of a code");
    assert!(problem(&said("", "0,0,\"x\",lte", "", "")).starts_with("+COPS"));
    assert!(problem(&said("", "", "2,1,\"1A2B\",\"zebra\",7", "")).contains("not hexadecimal"));
    assert!(problem(&said("", "", "2,1,\"1A2B\",\"FFFFFFFF\",7", "")).contains("28 bits"));
}

async fn modem() -> (String, String) {
    let stand_in = StandIn::new(7, Duration::from_millis(300));
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("tcp://{}", listener.local_addr().unwrap());
    tokio::spawn(serve_at(listener, stand_in.clone()));
    let control = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let control_address = format!("http://{}", control.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(control, control_router(stand_in)).await });
    (address, control_address)
}

#[tokio::test]
async fn the_stand_in_is_read_as_a_modem_and_its_faults_are_told() {
    let (address, control) = modem().await;
    let driver = super::driver(&address);
    let reading = driver.read().await.unwrap();
    assert_ne!(reading.mode, ConnectionMode::NoService);
    let rsrp = reading.carriers[0].rsrp_dbm.unwrap();
    assert!((-140.0..-44.0).contains(&rsrp) && reading.carriers[0].cell_identity.is_some(), "{reading:?}");
    let mut watcher = Watcher::new(driver);
    assert!(watcher.look().await.unwrap().novelty.counts());
    let client = reqwest::Client::new();
    let fault = |kind: &'static str| client.put(format!("{control}/fault")).json(kind).send();
    fault("wrong_type").await.unwrap();
    watcher.look().await;
    assert!(
        matches!(&watcher.state().status, LinkStatus::Nonsense { problem, .. } if problem.contains("+CESQ"))
    );
    fault("hung").await.unwrap();
    watcher.look().await;
    assert!(
        matches!(&watcher.state().status, LinkStatus::Unreachable { problem, .. } if problem.contains("5 seconds"))
    );
    fault("half").await.unwrap();
    watcher.look().await;
    assert!(
        matches!(&watcher.state().status, LinkStatus::Unreachable { problem, .. } if problem.contains("broke off"))
    );
    fault("slow").await.unwrap();
    let began = std::time::Instant::now();
    assert!(watcher.look().await.is_some(), "slow is not silent");
    assert!(began.elapsed() >= Duration::from_secs(2));
    // What comes late on the broken connection is not taken for an answer: a new one is made.
    fault("none").await.unwrap();
    assert!(watcher.look().await.is_some());
    assert_eq!(watcher.state().status, LinkStatus::Live);
}

/// Seen: silence was told to be a refusal.
#[tokio::test]
async fn a_silent_modem_has_not_refused_a_lock() {
    let (address, control) = modem().await;
    let recipe = LockRecipe { undo_commands: vec!["AT+BEACONLOCK=0".into()], ..LockRecipe::default() };
    let driver = super::driver(&address);
    driver.lock(&recipe, None).await.unwrap();
    let hung = reqwest::Client::new().put(format!("{control}/fault")).json("hung").send().await.unwrap();
    assert!(hung.status().is_success());
    let told = driver.lock(&recipe, None).await;
    assert!(matches!(&told, Err(DriverError::Unreachable(why)) if why.contains("5 seconds")), "{told:?}");
}

#[tokio::test]
async fn a_web_server_in_place_of_a_modem_is_recognised() {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap().to_string();
    tokio::spawn(async move {
        let (mut stream, _) = listener.accept().await.unwrap();
        let mut heard = [0u8; 64];
        let _ = stream.read(&mut heard).await;
        let _ = stream.write_all(b"HTTP/1.1 400 Bad Request\r\nContent-Length: 0\r\n\r\n").await;
    });
    let Err(DriverError::Nonsense { problem, .. }) = super::driver(&format!("tcp://{address}")).read().await
    else {
        panic!()
    };
    assert!(problem.contains("check the port"), "{problem}");
    assert!(matches!(super::driver("tcp://127.0.0.1:9").read().await, Err(DriverError::Unreachable(_))));
}

#[tokio::test]
async fn answers_in_pieces_with_echo_and_unasked_lines_are_put_together() {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap().to_string();
    tokio::spawn(async move {
        let (mut stream, _) = listener.accept().await.unwrap();
        let mut heard = [0u8; 64];
        loop {
            let count = stream.read(&mut heard).await.unwrap_or(0);
            if count == 0 {
                return;
            }
            let command = String::from_utf8_lossy(&heard[..count]).trim().to_owned();
            let answer = match command.as_str() {
                "AT+CESQ" => "\r\n+CME ERROR: 100\r\n".to_owned(),
                "AT+CSQ" => "\r\n+CREG: 1\r\n\r\n+CSQ: 20,99\r\n\r\nOK\r\n".to_owned(),
                _ => "\r\nERROR\r\n".to_owned(),
            };
            for piece in format!("{command}\r{answer}").as_bytes().chunks(5) {
                stream.write_all(piece).await.unwrap();
                tokio::time::sleep(Duration::from_millis(3)).await;
            }
        }
    });
    let reading = super::driver(&format!("tcp://{address}")).read().await.unwrap();
    assert_eq!(reading.carriers[0].rssi_dbm, Some(-73.0), "+CSQ, where +CESQ is not known");
}

fn beacon(answer: &str) -> ModemRead {
    let rsrp = FieldAt { scale: 0.1, ..FieldAt::plain(PageField::RsrpDbm, "") };
    ModemRead {
        command: "AT+BEACON?".into(),
        answer: answer.into(),
        technology: Technology::Lte,
        fields: vec![rsrp],
    }
}

#[tokio::test]
async fn a_read_of_the_users_own_adds_what_the_standard_does_not_tell() {
    let (address, _) = modem().await;
    let mut settings = super::settings(&address);
    settings.recipe.modem_reads = vec![beacon("+BEACON: \"LTE\",{rsrp_dbm},{sinr_db},{band}")];
    let driver = Driver::new(&settings, GatewaySecrets::default(), LoginAttempts::default()).unwrap();
    let lte = driver.read().await.unwrap().carriers[0].clone();
    assert!(lte.sinr_db.is_some() && lte.band.is_some() && lte.cell_identity.is_some(), "{lte:?}");
    assert!(lte.rsrp_dbm.is_some_and(|rsrp| (-140.0..-44.0).contains(&rsrp)), "tenths were scaled: {lte:?}");

    settings.recipe.modem_reads = vec![beacon("+BEACON: \"NR\",{rsrp_dbm}")];
    let driver = Driver::new(&settings, GatewaySecrets::default(), LoginAttempts::default()).unwrap();
    let Err(DriverError::Nonsense { problem, .. }) = driver.read().await else { panic!() };
    assert!(problem.contains("AT+BEACON? answers otherwise"), "{problem}");
}

#[tokio::test]
async fn a_serial_line_is_read_as_a_socket_is() {
    let (mut modem, line) = tokio_serial::SerialStream::pair().unwrap();
    let path = tokio_serial::SerialPort::name(&line).unwrap();
    tokio::spawn(async move {
        let mut heard = [0u8; 64];
        while let Ok(count) = modem.read(&mut heard).await {
            let command = String::from_utf8_lossy(&heard[..count]).trim().to_owned();
            let answer = if command == "AT+CESQ" { "+CESQ: 99,99,255,255,20,50\r\n\r\nOK" } else { "ERROR" };
            let _ = modem.write_all(format!("\r\n{answer}\r\n").as_bytes()).await;
        }
    });
    let reading = super::driver(&format!("serial:{path}?baud=9600")).read().await.unwrap();
    // TS 36.133 table 9.1.4-1: code 50 is −91 to −90 dBm.
    assert_eq!(reading.carriers[0].rsrp_dbm, Some(-90.5));
    let missing = super::driver("serial:/dev/no-such-device").read().await;
    assert!(matches!(missing, Err(DriverError::Unreachable(words)) if words.contains("/dev/no-such-device")));
    drop(line);
}

#[test]
fn only_questions_are_sent() {
    use open_beacon_domain::check::Checker;
    let asked = |command: &str| {
        let read = ModemRead { command: command.into(), ..beacon("+BEACON: {rsrp_dbm}") };
        let recipe = GatewayRecipe { modem_reads: vec![read], ..GatewayRecipe::default() };
        Checker::default().recipe("", &recipe).done().is_empty()
    };
    for fine in ["AT+BEACON?", "AT+BEACON", "AT^CELLS?", "AT+CELLS=\"serving\""] {
        assert!(asked(fine), "{fine}");
    }
    for not in [
        "AT+CFUN=1",
        "AT+X=1,7,\"123456\"",
        "ATZ",
        "AT+X?;+CFUN=0",
        "AT+X=\"12345678\"",
        "at+x?",
        "AT+X=\"\"",
        "AT+X?\rATZ",
    ] {
        assert!(!asked(not), "{not}");
    }
}

/// Commands with what is answered to each; `|` is a pause.
type Script = &'static [(&'static str, &'static str)];

/// A modem that answers each command with what `answers` says; anything else with an error.
async fn scripted(answers: Script) -> AtDriver {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("tcp://{}", listener.local_addr().unwrap());
    tokio::spawn(async move {
        while let Ok((mut stream, _)) = listener.accept().await {
            let mut heard = Vec::new();
            let mut byte = [0u8; 1];
            while let Ok(1) = stream.read(&mut byte).await {
                if byte[0] != b'\r' {
                    heard.push(byte[0]);
                    continue;
                }
                let command = String::from_utf8_lossy(&std::mem::take(&mut heard)).into_owned();
                let answer = answers
                    .iter()
                    .find(|(name, _)| *name == command)
                    .map_or("\r\nERROR\r\n", |(_, text)| text);
                for part in answer.split('|') {
                    let _ = stream.write_all(part.as_bytes()).await;
                    tokio::time::sleep(Duration::from_millis(20)).await;
                }
            }
        }
    });
    AtDriver::for_address(&address, &[]).unwrap()
}

const CESQ: &str = "\r\n+CESQ: 99,99,255,255,20,43\r\n\r\nOK\r\n";
const COPS: &str = "\r\n+COPS: 0,2,\"00101\",7\r\n\r\nOK\r\n";
const CEREG: &str = "\r\n+CEREG: 2,1,\"1A2B\",\"0020150A\",7\r\n\r\nOK\r\n";

/// What each kind of talk costs: at most the one question.
#[tokio::test]
async fn a_modem_that_talks_between_costs_one_question_at_most() {
    let cases: [(&str, Script, Option<u64>); 7] = [
        (
            "as the standard has it",
            &[("AT+CESQ", CESQ), ("AT+COPS?", COPS), ("AT+CEREG?", CEREG)],
            Some(0x0020_150A),
        ),
        (
            "registration announced between question and answer",
            &[
                (
                    "AT+CESQ",
                    "\r\n+CEREG: 5,\"1A2B\",\"0FFFFFFF\",7\r\n|\r\n+CESQ: 99,99,255,255,20,43\r\n\r\nOK\r\n",
                ),
                ("AT+COPS?", COPS),
                (
                    "AT+CEREG?",
                    "\r\n+CEREG: 5,\"1A2B\",\"0FFFFFFF\",7\r\n|\r\n+CEREG: 2,1,\"1A2B\",\"0020150A\",7\r\n|\r\nOK\r\n\r\n+CEREG: 1,\"1A2B\",\"0EEEEEEE\",7\r\n",
                ),
            ],
            Some(0x0020_150A),
        ),
        (
            "echoes twice, and a stray OK before the answer",
            &[
                ("AT+CESQ", "AT+CESQ\rAT+CESQ\r\r\nOK\r\n|\r\n+CESQ: 99,99,255,255,20,43\r\n\r\nOK\r\n"),
                ("AT+COPS?", COPS),
                ("AT+CEREG?", CEREG),
            ],
            Some(0x0020_150A),
        ),
        (
            "another error of the standard",
            &[("AT+CESQ", CESQ), ("AT+COPS?", COPS), ("AT+CEREG?", "\r\n+CMS ERROR: 302\r\n")],
            None,
        ),
        (
            "results as numbers",
            &[
                ("AT+CESQ", "+CESQ: 99,99,255,255,20,43\r\n0\r"),
                ("AT+COPS?", "+COPS: 0,2,\"00101\",7\r\n0\r"),
                ("AT+CEREG?", "4\r"),
            ],
            None,
        ),
        (
            "in words of its own",
            &[("AT+CESQ", CESQ), ("AT+COPS?", COPS), ("AT+CEREG?", "\r\nCOMMAND NOT SUPPORT\r\n")],
            None,
        ),
        ("no result at all", &[("AT+CESQ", CESQ), ("AT+COPS?", COPS), ("AT+CEREG?", "\r\n")], None),
    ];
    for (what, answers, identity) in cases {
        let driver = scripted(answers).await;
        for again in 0..2 {
            let reading = driver.read().await.unwrap_or_else(|error| panic!("{what}, {again}: {error}"));
            assert_eq!(reading.mode, ConnectionMode::Lte, "{what}");
            let carrier = &reading.carriers[0];
            assert_eq!((carrier.rsrp_dbm, carrier.cell_identity), (Some(-97.5), identity), "{what}, {again}");
        }
    }
}
