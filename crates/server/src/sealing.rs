//! What is kept encrypted: readable to whoever knows the pass phrase, which nobody keeps.

use argon2::Argon2;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use chacha20poly1305::aead::Aead;
use chacha20poly1305::{KeyInit, XChaCha20Poly1305};
use rand::RngExt;

use crate::error::ApiError;

/// Bytes of salt, as RFC 9106 (4, step 8) recommends.
const SALT: usize = 16;
/// Bytes of a nonce of XChaCha20 (draft-irtf-cfrg-xchacha-03): long enough to be drawn at random.
const NONCE: usize = 24;

/// A key from a pass phrase: Argon2id with the parameters its crate proposes (RFC 9106).
fn cipher(pass_phrase: &str, salt: &[u8]) -> Option<XChaCha20Poly1305> {
    let mut key = [0; 32];
    Argon2::default().hash_password_into(pass_phrase.as_bytes(), salt, &mut key).ok()?;
    Some(XChaCha20Poly1305::new(&key.into()))
}

/// A text encrypted under a pass phrase: salt, nonce and ciphertext with its tag, in base64.
///
/// # Errors
/// When it can't be encrypted.
pub fn seal(text: &str, pass_phrase: &str) -> Result<String, ApiError> {
    let mut rng = rand::rng();
    let (salt, nonce): ([u8; SALT], [u8; NONCE]) = (rng.random(), rng.random());
    let sealed = cipher(pass_phrase, &salt).and_then(|cipher| cipher.encrypt(&nonce.into(), text.as_bytes()).ok());
    let sealed = sealed.ok_or_else(|| ApiError::Internal("a text that can't be encrypted".into()))?;
    Ok(STANDARD.encode([&salt[..], &nonce[..], &sealed[..]].concat()))
}

/// The text; none when the pass phrase is another, or what is there was changed.
#[must_use]
pub fn open(sealed: &str, pass_phrase: &str) -> Option<String> {
    let bytes = STANDARD.decode(sealed).ok()?;
    let (salt, rest) = bytes.split_at_checked(SALT)?;
    let (nonce, sealed) = rest.split_at_checked(NONCE)?;
    let nonce: [u8; NONCE] = nonce.try_into().ok()?;
    String::from_utf8(cipher(pass_phrase, salt)?.decrypt(&nonce.into(), sealed).ok()?).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_the_pass_phrase_opens_it_and_nothing_that_was_changed_opens() {
        let sealed = seal("kiln-9q2f", "clay, glaze and kiln").expect("sealed");
        assert_eq!(open(&sealed, "clay, glaze and kiln").as_deref(), Some("kiln-9q2f"));
        assert_eq!(open(&sealed, "Clay, glaze and kiln"), None);
        let mut bytes = STANDARD.decode(&sealed).expect("base64");
        *bytes.last_mut().expect("a byte") ^= 1;
        assert_eq!(open(&STANDARD.encode(&bytes), "clay, glaze and kiln"), None);
        for nonsense in ["", "no base64!", "AAAA", &STANDARD.encode([0; SALT + NONCE])] {
            assert_eq!(open(nonsense, "clay, glaze and kiln"), None, "{nonsense}");
        }
    }

    #[test]
    fn the_same_is_sealed_otherwise_each_time() {
        let [one, two] = [(); 2].map(|()| seal("kiln", "clay, glaze and kiln").expect("sealed"));
        assert_ne!(one, two);
        assert!(!STANDARD.decode(one).expect("base64").windows(4).any(|own| own == b"kiln"));
    }
}
