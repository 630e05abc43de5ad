//! What a site's settings send, and where: shown before anything of a site that came from a file is asked.

use crate::model::{AskMethod, GatewaySettings, Login, SiteSettings, origin_of};

/// One line for each thing that is sent without a press of its own.
pub fn requests(settings: &SiteSettings) -> Vec<String> {
    let mut lines = Vec::new();
    if let Some(gateway) = &settings.gateway {
        of_gateway(gateway, &mut lines);
    }
    if let Some(test) = &settings.speed_test {
        lines.push(format!("Speed tests download {}", test.download_url));
        lines.extend(test.upload_url.iter().map(|url| format!("Speed tests upload to {url}")));
        let probed = test.latency_url.iter().filter(|url| **url != test.download_url);
        lines.extend(probed.map(|url| format!("Round trips are taken of {url}")));
    }
    lines.extend(settings.second_test_url.iter().map(|url| format!("The second test server is {url}")));
    lines.extend(settings.stand_in_url.iter().map(|url| format!("The stand-in antenna is turned at {url}")));
    lines
}

fn of_gateway(gateway: &GatewaySettings, lines: &mut Vec<String>) {
    let (recipe, address) = (&gateway.recipe, &gateway.status_url);
    if address.starts_with("tcp:") || address.starts_with("serial:") {
        let own = recipe.modem_reads.iter().map(|read| read.command.as_str());
        let asked: Vec<&str> = ["the standard's commands"].into_iter().chain(own).collect();
        lines.push(format!("The modem at {address} is asked {}", asked.join(", ")));
    } else {
        lines.push(format!(
            "The gateway's page {address} is asked again and again{}",
            with(recipe.method, &recipe.body)
        ));
    }
    let home = origin_of(address).unwrap_or_default();
    lines.extend(recipe.headers.iter().map(|one| format!("with the header {}: {}", one.name, one.value)));
    match &recipe.login {
        Login::None => {}
        Login::Basic => lines.push("with your name and password, once you have entered them".into()),
        Login::Steps { steps } => lines.extend(
            steps
                .iter()
                .map(|step| format!("It signs in at {home}{}{}", step.path, with(step.method, &step.body))),
        ),
    }
    if let Some(lock) = &recipe.lock {
        lines.extend(
            lock.request
                .iter()
                .map(|one| format!("Bands are locked at {home}{}{}", one.path, with(one.method, &one.body))),
        );
        lines.extend(lock.commands.iter().map(|command| format!("Bands are locked with {command}")));
    }
}

fn with(method: AskMethod, body: &str) -> String {
    match (method, body.trim()) {
        (AskMethod::Get, _) => String::new(),
        (AskMethod::Post, "") => ", by POST".into(),
        (AskMethod::Post, body) => format!(", by POST with {body}"),
    }
}
