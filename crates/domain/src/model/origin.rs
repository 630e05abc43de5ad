//! Where an address leads: what a password is bound to, and what stays on the device itself.

/// Scheme, host and port of a device's address in one spelling, for instance `http://192.168.8.1:80`. `None` where there is no
/// such thing, or where a name or password stands in it. Of a serial device, its path.
pub fn origin_of(address: &str) -> Option<String> {
    if let Some(device) = address.strip_prefix("serial:") {
        let path = device.split('?').next().unwrap_or_default();
        return (!path.is_empty()).then(|| format!("serial:{path}"));
    }
    let (scheme, rest) = address.split_once("://")?;
    let scheme = scheme.to_ascii_lowercase();
    let usual = match scheme.as_str() {
        "http" => "80",
        "https" => "443",
        "tcp" => "",
        _ => return None,
    };
    // A backslash is a slash to what follows the web's rules (WHATWG URL, special schemes).
    let authority = rest.split(['/', '\\', '?', '#']).next().unwrap_or_default();
    if authority.is_empty() || authority.contains(['@', ' ']) || authority.contains(char::is_control) {
        return None;
    }
    let split = authority.rsplit_once(':').filter(|(_, port)| port.bytes().all(|byte| byte.is_ascii_digit()));
    let (host, port) =
        split.map_or((authority, usual), |(host, port)| (host, if port.is_empty() { usual } else { port }));
    let host = host.trim_end_matches('.').to_ascii_lowercase();
    (!host.is_empty()).then(|| format!("{scheme}://{host}:{port}"))
}

/// Whether a path stays on the device that is asked: it begins with one slash, and nothing in it could be read as the beginning
/// of another address.
pub fn is_own_path(path: &str) -> bool {
    path.starts_with('/')
        && !path.starts_with("//")
        && !path.contains('\\')
        && !path.contains(char::is_whitespace)
        && !path.contains(char::is_control)
}

/// An address without the name and password that stood in it, and those (RFC 3986 section 3.2.1), decoded.
pub fn without_user_info(address: &str) -> (String, Option<(String, String)>) {
    let Some((scheme, rest)) = address.split_once("://") else { return (address.to_owned(), None) };
    let end = rest.find(['/', '\\', '?', '#']).unwrap_or(rest.len());
    let Some((info, host)) = rest[..end].rsplit_once('@') else { return (address.to_owned(), None) };
    let (user, password) = info.split_once(':').unwrap_or((info, ""));
    (format!("{scheme}://{host}{}", &rest[end..]), Some((decoded(user), decoded(password))))
}

/// An address without the value of a `token` in its query: whom the record is shown to is not let in by it.
pub fn without_token(address: &str) -> String {
    let Some((before, query)) = address.split_once('?') else { return address.to_owned() };
    let (query, fragment) = query.split_once('#').map_or((query, None), |(query, rest)| (query, Some(rest)));
    let kept: Vec<&str> = query.split('&').filter(|pair| pair.split('=').next() != Some("token")).collect();
    let query = if kept.is_empty() { String::new() } else { format!("?{}", kept.join("&")) };
    let fragment = fragment.map_or_else(String::new, |rest| format!("#{rest}"));
    format!("{before}{query}{fragment}")
}

fn decoded(text: &str) -> String {
    let bytes = text.as_bytes();
    let mut out = Vec::with_capacity(bytes.len());
    let mut at = 0;
    while at < bytes.len() {
        let hex = text.get(at + 1..at + 3).filter(|_| bytes[at] == b'%');
        match hex.and_then(|hex| u8::from_str_radix(hex, 16).ok()) {
            Some(byte) => {
                out.push(byte);
                at += 3;
            }
            None => {
                out.push(bytes[at]);
                at += 1;
            }
        }
    }
    String::from_utf8_lossy(&out).into_owned()
}
