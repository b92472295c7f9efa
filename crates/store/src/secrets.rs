//! Passwords, PINs, tokens and codes.

use std::sync::LazyLock;

use argon2::Argon2;
use argon2::password_hash::phc::PasswordHash;
use argon2::password_hash::{PasswordHasher, PasswordVerifier};
use rand::RngExt;
use sha2::{Digest, Sha256};

use crate::StoreError;

/// Letters and digits that cannot be taken for one another when read aloud or off a board.
const CLEAR: &[u8] = b"ABCDEFGHJKMNPQRSTUVWXYZ23456789";

/// Hashes a password or PIN (Argon2id with the library's recommended cost and a random salt).
pub(crate) fn hash(secret: &str) -> Result<String, StoreError> {
    let hash = Argon2::default().hash_password(secret.as_bytes());
    hash.map(|h| h.to_string()).map_err(|e| StoreError::Content(e.to_string()))
}

/// A hash that no secret belongs to.
static NOBODYS: LazyLock<String> = LazyLock::new(|| hash(&token()).unwrap_or_default());

/// Whether a password or PIN belongs to a hash; without one, it takes as long to say no.
pub(crate) fn matches(secret: &str, hash: Option<&String>) -> bool {
    let fits = |h: &String| {
        PasswordHash::new(h).is_ok_and(|h| Argon2::default().verify_password(secret.as_bytes(), &h).is_ok())
    };
    let right = fits(hash.unwrap_or(&NOBODYS));
    right && hash.is_some()
}

/// A token for a cookie: 256 random bits.
pub fn token() -> String {
    hex::encode(rand::rng().random::<[u8; 32]>())
}

/// What is stored of a token.
pub fn token_hash(token: &str) -> String {
    hex::encode(Sha256::digest(token.as_bytes()))
}

/// A code to be read off a board.
pub fn code(length: usize) -> String {
    let mut rng = rand::rng();
    (0..length).map(|_| char::from(CLEAR[rng.random_range(0..CLEAR.len())])).collect()
}

/// A logbook's seed; fits SQLite's integers and is never negative.
pub(crate) fn seed() -> i64 {
    rand::rng().random_range(0..i64::MAX)
}
