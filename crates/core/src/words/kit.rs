//! Words of the Kit stage: each finding as a sentence that says the fix.

use crate::bands::band_name;
use crate::capacity::Estimate;
use crate::feedline::joint::{Connector, Gender, Series, adapter_for};
use crate::kit::finding::{FixTo, KitFinding, PowerFault};
use crate::kit::suggest::{Candidate, WhyNot};
use crate::model::{BandName, GatewayPlace, Metric, PowerKind};
use crate::words::{self, Style, capital, decibels, length, listed, rough_rate as rate};

/// "SMA-male": series and gender as sold.
pub fn connector(end: Connector) -> String {
    let series = match end.series {
        Series::N => "N",
        Series::Sma => "SMA",
        Series::RpSma => "RP-SMA",
        Series::Ts9 => "TS9",
        Series::Crc9 => "CRC9",
        Series::UFl => "u.FL",
    };
    let gender = match end.gender {
        Gender::Male => "male",
        Gender::Female => "female",
    };
    format!("{series}-{gender}")
}

fn adapter(from: Connector, to: Connector, loss_db: f64) -> String {
    adapter_for(from, to).map_or(String::new(), |(near, far)| {
        format!("Add {} to {}, about {:.1}\u{202f}dB.", connector(near), connector(far), loss_db)
    })
}

fn bands(names: &[BandName]) -> String {
    listed(&names.iter().map(|name| band_name(name.technology, name.band)).collect::<Vec<_>>())
}

fn many(count: usize, one: &str, more: &str) -> String {
    if count == 1 { format!("one {one}") } else { format!("{count} {more}") }
}

fn range(range: Estimate) -> String {
    let (low, high) = (rate(range.low), rate(range.high));
    if low == high { low } else { format!("{} to {high}", low.trim_end_matches("\u{202f}Mbit/s")) }
}

fn number(value: f64, decimals: usize, unit: &str) -> String {
    format!("{}\u{202f}{unit}", words::signed(value, decimals))
}

fn whole(value: f64, unit: &str) -> String {
    number(value, 0, unit)
}

/// A finding as one or two whole sentences, the fix among them.
pub fn sentence(finding: &KitFinding, style: Style) -> String {
    match finding {
        KitFinding::NoGateway => "Choose a gateway: it decides bands, ports and streams.".into(),
        KitFinding::PartsGone { count } => format!(
            "{} of this kit {} not in the catalogue. Choose again, or import the catalogue it came from.",
            capital(&many(*count, "part", "parts")),
            if *count == 1 { "is" } else { "are" }
        ),
        KitFinding::LengthMissing { name } => {
            format!("{name} has no length. Measure the way it takes and add a metre.")
        }
        KitFinding::NoPorts { gateway } => {
            format!("{gateway} has no antenna ports. Take a gateway with ports, or an outdoor unit.")
        }
        KitFinding::NeedsAntenna => {
            "Its inner antennas were cut off for good: it hears nothing until an antenna is plugged in. Choose one."
                .into()
        }
        KitFinding::SameGender { from, to, loss_db } => format!(
            "{} on {}: two of a kind. {}",
            connector(*from),
            connector(*to),
            adapter(*from, *to, *loss_db)
        ),
        KitFinding::ReversePolarity { from, to, loss_db } => format!(
            "{} on {} screws on and does not connect: the centre pins are swapped. {}",
            connector(*from),
            connector(*to),
            adapter(*from, *to, *loss_db)
        ),
        KitFinding::OtherSeries { from, to, loss_db } => {
            format!("{} does not fit {}. {}", connector(*from), connector(*to), adapter(*from, *to, *loss_db))
        }
        KitFinding::Fragile { socket, thickness_mm } if *thickness_mm > 0.0 => format!(
            "A cable {} thick on a {} socket can lever it off its board. Put a short thin pigtail between and hold the cable with a clip.",
            whole(*thickness_mm, "mm"),
            connector(*socket)
        ),
        KitFinding::Fragile { socket, .. } => format!(
            "{} is a fragile socket: press it on straight, never pull at the cable; about 30 matings is its life.",
            connector(*socket)
        ),
        KitFinding::OutdoorJoints { count } => format!(
            "{} in the open: wrap each in self-fusing silicone tape, and let the cable hang in a loop below the way in so that water drips off.",
            capital(&many(*count, "joint", "joints"))
        ),
        KitFinding::NotForOutdoors { joint } => format!(
            "{} cannot be kept dry outdoors. Move this joint inside, or use N or SMA there.",
            connector(*joint)
        ),
        KitFinding::CableNotForOutdoors { name } => {
            format!("{name} is not made for sun and rain. Use an outdoor cable, or run this one indoors.")
        }
        other => ports(other, style),
    }
}

fn ports(finding: &KitFinding, style: Style) -> String {
    match finding {
        KitFinding::BandMissedByAntenna { bands: missed, low_mhz, high_mhz } => format!(
            "The antenna is made for {} to {} and misses {}. Take one that covers the bands in use.",
            words::signed(*low_mhz, 0), whole(*high_mhz, "MHz"), bands(missed)
        ),
        KitFinding::BandMissedByGateway { bands: missed } => {
            format!("The gateway has no {}: what is on offer there stays unused.", bands(missed))
        }
        KitFinding::BandNotOnPorts { bands: missed } => format!(
            "{} {} not on the ports the leads reach and {} on the inner antennas. Use the ports that carry {}.",
            bands(missed),
            if missed.len() == 1 { "is" } else { "are" },
            if missed.len() == 1 { "stays" } else { "stay" },
            if missed.len() == 1 { "it" } else { "them" }
        ),
        KitFinding::TransmitLeftOut { ports } => format!(
            "None of the leads reaches a port that transmits: the upload would run on nothing. Plug a lead into {}.",
            either(ports)
        ),
        KitFinding::OneBranch => {
            "One lead makes one stream: about half of what two would bring. Add a second antenna crossed at 90°, or one with two leads.".into()
        }
        KitFinding::PairSplit { leads: [a, b] } => format!(
            "Leads {a} and {b} are one crossed pair and go to ports of different pairs. Put both on one pair of ports."
        ),
        KitFinding::NotCrossed { apart_deg } => format!(
            "Two single antennas make a pair only at 90° to each other, each 45° off upright; here they are {} apart. Turn one.",
            format_args!("{}°", words::signed(*apart_deg, 0))
        ),
        KitFinding::AllUpright => {
            "All elements are upright, the mast's are crossed: the streams are hard to tell apart. A crossed antenna brings the second stream more surely.".into()
        }
        KitFinding::LeadsOpen { count } => format!(
            "{} of the antenna {} unused. Cap {} against water.",
            capital(&many(usize::from(*count), "lead", "leads")),
            if *count == 1 { "stays" } else { "stay" },
            if *count == 1 { "it" } else { "them" }
        ),
        KitFinding::PortsOpen { ports } => format!(
            "{} of the gateway {} open: leave the stock antennas there, or cap {}.",
            if ports.len() == 1 { format!("Port {}", ports[0]) } else { format!("Ports {}", listed(ports)) },
            if ports.len() == 1 { "stays" } else { "stay" },
            if ports.len() == 1 { "it" } else { "them" }
        ),
        KitFinding::PortUnknown { lead, port } => {
            format!("Lead {lead} goes to port “{port}”, which this gateway has not got. Choose one of its ports.")
        }
        KitFinding::PortTwice { port } => format!("Two leads go to port “{port}”. One port takes one lead."),
        KitFinding::SwitchBySetting => {
            "Its ports are switched on by a setting in the gateway's pages: set it to external, then restart.".into()
        }
        KitFinding::SwitchedForGood => {
            "Its inner antennas were cut off when the ports were added: without an antenna plugged in it hears nothing.".into()
        }
        KitFinding::CaseOpened => {
            "The case must be opened to reach the sockets: the warranty ends, parts are small, static kills them. A gateway with ports outside avoids it.".into()
        }
        other => place(other, style),
    }
}

fn either(words: &[String]) -> String {
    listed(words).replace(" and ", " or ")
}

fn place(finding: &KitFinding, style: Style) -> String {
    match finding {
        KitFinding::HoleTooSmall { hole_mm, needs_mm } => format!(
            "A hole of {} is too small: cables and one connector need {}. Drill wider, or fit the connectors after pulling through.",
            whole(*hole_mm, "mm"), whole(needs_mm.ceil(), "mm")
        ),
        KitFinding::WindowNeedsFlat => {
            "A round cable does not pass a closed window. Add a flat window jumper, about 1\u{202f}dB.".into()
        }
        KitFinding::WayInMissing => {
            "Say how the cable comes in: a hole, a flat jumper through a window, or something that is there.".into()
        }
        KitFinding::Bends { radius_mm, room_mm, name } => format!(
            "{name} must not bend tighter than {}, and there are about {} behind a gateway or in a window frame. End it short and go on with a thin jumper.",
            whole(*radius_mm, "mm"), whole(*room_mm, "mm")
        ),
        KitFinding::ClampMisfit { pole_mm, low_mm, high_mm } => format!(
            "The clamp takes poles of {} to {}, this one is {}. Take another pole or a clamp that fits.",
            words::signed(*low_mm, 0), whole(*high_mm, "mm"), whole(*pole_mm, "mm")
        ),
        KitFinding::NoFixing { to } => match to {
            FixTo::Pole => "This antenna has no clamp for a pole, or the kit has no pole. Choose a mount with a pole that its clamp takes.".into(),
            FixTo::Wall => "This antenna does not screw to a wall. Add an arm or a bracket with a pole.".into(),
            FixTo::Glass => "This antenna is not made to hang on glass. Take a window antenna, or a mount.".into(),
        },
        KitFinding::NotWeatherproof { name } => {
            format!("{name} is not made for the open. Mount it indoors, behind glass or under the roof, or choose another.")
        }
        KitFinding::TooHotOrCold { place, low_c, high_c, expected_low_c, expected_high_c } => format!(
            "{} goes from {} to {}, the gateway is made for {} to {}. Put it in a heated room.",
            match place {
                GatewayPlace::Room => "A room",
                GatewayPlace::Attic => "An unheated attic",
                GatewayPlace::SealedBox => "A closed box in the sun",
                GatewayPlace::Outside => "The open",
            },
            words::signed(*expected_low_c, 0), whole(*expected_high_c, "°C"),
            words::signed(*low_c, 0), whole(*high_c, "°C")
        ),
        KitFinding::TooHeavy { weight_kg, carries_kg } => format!(
            "The antenna weighs {}, the mount is sold for {}. Take a stronger mount.",
            number(*weight_kg, 1, "kg"), number(*carries_kg, 1, "kg")
        ),
        KitFinding::Wind { wind_m_s, force_n, moment_nm, limit_nm } => {
            let against = limit_nm.map_or(String::new(), |limit| {
                let verdict = if *moment_nm > limit { " More than it is sold for: shorten the pole or take a stronger mount." } else { "" };
                format!(", of {} that the mount is sold for.{verdict}", whole(limit, "N\u{202f}m"))
            });
            format!(
                "In {} of wind the antenna pushes with about {} and bends the mount with {}{} An indication, not a structural design.",
                whole(*wind_m_s, "m/s"), whole(*force_n, "N"), whole(*moment_nm, "N\u{202f}m"),
                if against.is_empty() { "." } else { &against }
            )
        }
        KitFinding::Holes { holes } => format!(
            "{} to drill, in a home that must be given back as it was. Ask the owner, or take a clamp, a stand or the window.",
            capital(&many(usize::from(*holes), "hole", "holes"))
        ),
        KitFinding::NoArrestor => {
            "No surge arrestor between antenna and house. Add one where the cable comes in, bonded to the building's earth as the local electrical code says.".into()
        }
        KitFinding::ArrestorRange { bands: missed, low_mhz, high_mhz } => format!(
            "The arrestor is made for {} to {} and blocks {}. Take one to 6\u{202f}GHz.",
            words::signed(*low_mhz, 0), whole(*high_mhz, "MHz"), bands(missed)
        ),
        KitFinding::BondArrestor => {
            "An arrestor protects only when it is bonded to earth, as the local electrical code says; where it says so, by a licensed electrician.".into()
        }
        KitFinding::Power { fault } => power(*fault, style),
        KitFinding::PowerArrives { voltage_v, lost_w } => format!(
            "{} arrive at the unit; the cable turns {} to heat.", number(*voltage_v, 1, "V"), number(*lost_w, 1, "W")
        ),
        other => here(other),
    }
}

fn power(fault: PowerFault, style: Style) -> String {
    let kind = |kind| match kind {
        PowerKind::Standard => "standard (802.3)",
        PowerKind::Passive => "passive",
    };
    match fault {
        PowerFault::NoCable => "The outdoor unit needs an Ethernet cable that also feeds it. Add one.".into(),
        PowerFault::NoInjector => "Nothing feeds the outdoor unit. Add an injector of its kind.".into(),
        PowerFault::KindsMixed { unit, injector } => format!(
            "The unit wants {} power, the injector gives {}: never mix them, it can destroy the unit. Take a {} injector.",
            kind(unit), kind(injector), kind(unit)
        ),
        PowerFault::TooMuchVoltage { injector_v, highest_v } => format!(
            "The injector gives {}, the unit bears {} at the most. Take one of lower voltage.",
            whole(injector_v, "V"), whole(highest_v, "V")
        ),
        PowerFault::TooLittleVoltage { arrives_v, lowest_v } => format!(
            "Only {} arrive, the unit needs {}. Shorten the cable, take thicker wire, or a higher voltage.",
            number(arrives_v, 1, "V"), whole(lowest_v, "V")
        ),
        PowerFault::TooMuchPower { needs_w, gives_w } => format!(
            "Unit and cable take {}, the injector gives {}. Take a stronger one.",
            number(needs_w, 1, "W"), whole(gives_w, "W")
        ),
        PowerFault::TooLong { length_m } => format!(
            "{} of Ethernet: it reaches {}. Put a switch between, or the unit nearer.",
            length(length_m, style.units), length(100.0, style.units)
        ),
        PowerFault::Starves => {
            "The cable takes more than the injector gives. Shorten it, take thicker wire, or a higher voltage.".into()
        }
    }
}

fn here(finding: &KitFinding) -> String {
    match finding {
        KitFinding::ModeMissing { standalone: true } => {
            "The network is connected as 5G on its own (SA), which this gateway cannot. Take one with SA.".into()
        }
        KitFinding::ModeMissing { standalone: false } => {
            "The 5G here rides on LTE (NSA), which this gateway cannot: it would be on LTE alone.".into()
        }
        KitFinding::DoesNotShow { metrics } => {
            let names: Vec<String> = metrics.iter().map(|metric| match metric {
                Metric::Rsrp => "signal power (RSRP)".to_owned(),
                Metric::Sinr => "signal-to-noise (SINR)".to_owned(),
                Metric::Rsrq => "signal quality (RSRQ)".to_owned(),
                Metric::Rssi => "total power (RSSI)".to_owned(),
            }).collect();
            format!("Its pages do not show {}: aiming goes by what it shows, and by speed.", listed(&names))
        }
        KitFinding::CannotLock => "It cannot lock bands: the network alone chooses.".into(),
        KitFinding::NotEnoughStock { name, have, need } => {
            format!("{name}: {have} in stock, {need} needed.")
        }
        KitFinding::LanCaps { lan_mbps, radio_mbps } => format!(
            "The wire is the cap: LAN port, cable or injector carry {}, the radio could bring {}.",
            rate(*lan_mbps), rate(*radio_mbps)
        ),
        KitFinding::FeedEatsGain { band, feed_loss_db, gain_dbi } => format!(
            "On {} the feed line takes {} of {} gain. Shorten it, take thicker cable, or put the modem at the antenna.",
            bands(&[*band]), decibels(*feed_loss_db), number(*gain_dbi, 1, "dBi")
        ),
        KitFinding::UplinkPays { loss_db } => format!(
            "The upload pays the feed line's {} in full, even where the download does not notice.", decibels(*loss_db)
        ),
        KitFinding::RadiatesTooMuch { eirp_dbm, permitted_dbm } => format!(
            "At full power it radiates {} (EIRP), {} is permitted by what was entered. Take less gain.",
            whole(*eirp_dbm, "dBm"), whole(*permitted_dbm, "dBm")
        ),
        KitFinding::Radiates { eirp_dbm } => format!(
            "At full power it radiates up to {} (EIRP). What is permitted depends on country and band: ask before a high-gain antenna goes up.",
            whole(*eirp_dbm, "dBm")
        ),
        KitFinding::NoiseRises { band, signal_db, disturbance_db } => format!(
            "On {} it hears {} more signal and {} more of the other masts: an antenna that hears all round lifts both. A directional one would keep them out.",
            bands(&[*band]), decibels(*signal_db), decibels(*disturbance_db)
        ),
        KitFinding::DirectionHelps { band, rejection_db } => format!(
            "On {} it hears the other masts {} less than the one it looks at; that improves signal-to-noise. It must be aimed well.",
            bands(&[*band]), decibels(*rejection_db)
        ),
        KitFinding::SecondPairPays { with_mbps, without_mbps } => format!(
            "The second pair of leads pays here: {} against {} with one pair.", rate(*with_mbps), rate(*without_mbps)
        ),
        KitFinding::SecondPairIdle { with_mbps, without_mbps } => format!(
            "The second pair of leads adds next to nothing here: {} against {}. The signal feeds no more than two streams, or the bands have no more. Two leads do.",
            rate(*with_mbps), rate(*without_mbps)
        ),
        KitFinding::Reaches { down_mbps, up_mbps, margin_db } => {
            let up = up_mbps.map_or(String::new(), |up| format!(" and {} up", range(up)));
            let margin = margin_db.map_or(String::new(), |margin| format!(", with {} to spare", decibels(margin)));
            format!("Expect {} down{up}: enough for the household{margin}.", range(*down_mbps))
        }
        KitFinding::MissesNeed { down_mbps, need_down_mbps, up_mbps, need_up_mbps } => {
            let short = if down_mbps.likely < *need_down_mbps {
                format!("the household needs {} down", rate(*need_down_mbps))
            } else {
                format!("the household needs {} up", rate(*need_up_mbps))
            };
            let up = up_mbps.map_or(String::new(), |up| format!(" and {} up", range(up)));
            format!("Expect {} down{up}: {short}.", range(*down_mbps))
        }
        KitFinding::NothingToPredict => {
            "Nothing to predict from: read the gateway at the Baseline, or give the mast's distance and the bands on offer.".into()
        }
        KitFinding::MetToday { spot, down_mbps, up_mbps } => format!(
            "Today's line at {spot} already meets the need ({} down, {} up): a kit would bring margin and speed beyond it.",
            rate(*down_mbps), rate(*up_mbps)
        ),
        _ => String::new(),
    }
}

/// Why a kit was not suggested.
pub fn why(why: &WhyNot, currency: &str) -> String {
    let money = |value: f64| format!("{}\u{202f}{currency}", words::signed(value, 0));
    match why {
        WhyNot::Chosen => "Chosen.".into(),
        WhyNot::Dearer { by } => format!("Also enough, but {} dearer.", money(*by)),
        WhyNot::Slower { by_mbps } => format!("{} slower.", rate(*by_mbps)),
        WhyNot::LessUse => "As fast at best, but less sure of it, or slower up.".into(),
        WhyNot::MissesDown { short_mbps } => format!("{} short of the download needed.", rate(*short_mbps)),
        WhyNot::MissesUp { short_mbps } => format!("{} short of the upload needed.", rate(*short_mbps)),
        WhyNot::LessThanToday => "Meets the need, but offers less than what you have today.".into(),
        WhyNot::OverPrice { by } => format!("{} over the price.", money(*by)),
        WhyNot::NoBand => "Carries none of the bands here.".into(),
        WhyNot::NoWayToConnect => "No adapters in the catalogue join its plugs.".into(),
        WhyNot::NothingHolds => "No mount in the catalogue holds it here.".into(),
        WhyNot::CannotStand => "Not made for the open or for the place it would stand.".into(),
        WhyNot::NeedsAntenna => "Hears nothing without an antenna plugged in.".into(),
        WhyNot::NoPower => "No injector and cable in the catalogue feed it.".into(),
    }
}

/// How likely it is that a suggested kit does what it is suggested for; `None` where that was not worked out.
pub fn chances(candidate: &Candidate) -> Option<String> {
    let need = words::in_cases(candidate.chance_of_need?);
    let need = format!("It meets the need {need}");
    Some(match candidate.chance_of_best {
        Some(most) => {
            format!("{need}. No other kit is clearly better: that holds {}.", words::in_cases(most))
        }
        None => format!("{need}."),
    })
}
