//! Makes an empty `web/dist`, so that everything compiles before the web application was built.

fn main() {
    let dist = std::path::Path::new("../../web/dist");
    if let Err(error) = std::fs::create_dir_all(dist) {
        println!("cargo:warning=web/dist cannot be made: {error}");
    }
    println!("cargo:rerun-if-changed=../../web/dist");
}
