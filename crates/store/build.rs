//! Rebuilds the crate when a migration is added: they are part of the program.

fn main() {
    println!("cargo:rerun-if-changed=migrations");
}
