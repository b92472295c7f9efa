//! The gate: whoever shows a password, a PIN or a partner code comes by here.
//!
//! Tries are counted in the store before a secret is looked at ([`zeitmass_store::Tried`]), by person and by address; a device from which
//! somebody signed in before is judged apart, so that nobody who guesses elsewhere holds up its owner. Hashing is heavy on purpose, so only
//! as many as there are cores are at it at once, and a bounded number waits.

use std::collections::HashMap;
use std::convert::Infallible;
use std::net::{IpAddr, Ipv6Addr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};

use axum::extract::{ConnectInfo, FromRequestParts};
use axum::http::request::Parts;
use axum_extra::extract::CookieJar;
use quick_cache::sync::Cache;
use tokio::sync::Semaphore;
use zeitmass_store::{Actor, Id, Store, StoreError, Tried, WRONG_PIN};

use crate::app::App;
use crate::error::WebError;
use crate::session::{DEVICE, browser_words, is_token};

/// Secrets that wait to be hashed, at most: a large school at the bell.
const MOST_WAITING: usize = 400;
/// Wrong tries from one address in [`WINDOW`] before it has to wait: a class of pupils who all mistype behind one address is let through.
const MOST_KNOCKS: u32 = 40;
/// Seconds over which wrong tries from an address are counted.
const WINDOW: i64 = 600;
/// Addresses remembered at once; further ones are counted together.
const MOST_ADDRESSES: usize = 4096;
/// Devices whose own wrong tries are remembered, to be forgiven once they are right.
const MOST_DEVICES: usize = 4096;

/// How the server is reached.
#[derive(Clone, Copy, Debug, Default)]
pub struct Network {
    /// The proxy whose word about addresses and HTTPS is taken; nobody else's is.
    pub proxy: Option<IpAddr>,
    /// Whether connections are encrypted by the server itself.
    pub encrypted: bool,
}

/// Where a request comes from.
#[derive(Clone, Debug, Default)]
pub(crate) struct Caller {
    /// The token of the browser, whoever is signed in there.
    pub device: Option<String>,
    /// The address, as far as it is known: an IPv4 address, or the network of an IPv6 address.
    pub address: Option<IpAddr>,
    /// Whether nobody can listen on the way.
    pub encrypted: bool,
    /// The browser, in words.
    pub browser: String,
    /// Whether it is on the machine of the server itself.
    pub at_home: bool,
}

impl FromRequestParts<App> for Caller {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, Infallible> {
        let network = app.network();
        let jar = CookieJar::from_headers(&parts.headers);
        let device = jar.get(DEVICE).map(|c| c.value().to_owned()).filter(|t| is_token(t));
        let peer =
            parts.extensions.get::<ConnectInfo<SocketAddr>>().map(|ConnectInfo(address)| address.ip().to_canonical());
        let trusted = peer.is_some() && peer == network.proxy.map(|p| p.to_canonical());
        let said = |name: &str| {
            let mut all = parts.headers.get_all(name).iter().filter_map(|v| v.to_str().ok());
            // What comes last was written by the proxy itself; what is before it, by anybody.
            all.next_back().and_then(|v| v.rsplit(',').next()).map(|v| v.trim().to_owned()).filter(|_| trusted)
        };
        let forwarded = said("x-forwarded-for").and_then(|v| v.parse::<IpAddr>().ok());
        let address = forwarded.or(peer).map(network_of);
        let encrypted = network.encrypted || said("x-forwarded-proto").is_some_and(|p| p == "https");
        let at_home = forwarded.or(peer).is_none_or(|a| a.to_canonical().is_loopback());
        Ok(Self { device, address, encrypted, browser: browser_words(&parts.headers), at_home })
    }
}

/// An address as it is counted: whoever has one IPv6 address has the 2⁶⁴ of its network.
fn network_of(address: IpAddr) -> IpAddr {
    match address.to_canonical() {
        IpAddr::V4(v4) => v4.into(),
        IpAddr::V6(v6) => {
            let [a, b, c, d, ..] = v6.segments();
            Ipv6Addr::new(a, b, c, d, 0, 0, 0, 0).into()
        }
    }
}

/// The gate's memory.
#[derive(Clone, Debug)]
pub(crate) struct Gate {
    hashing: Arc<Semaphore>,
    waiting: Arc<Semaphore>,
    /// Wrong tries by address: how many, since when.
    knocks: Arc<Mutex<HashMap<IpAddr, (u32, i64)>>>,
    /// Wrong tries of a device at a person it never was.
    own: Arc<Cache<(Tried, String), u32>>,
}

impl Default for Gate {
    fn default() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Self {
            hashing: Arc::new(Semaphore::new(cores)),
            waiting: Arc::new(Semaphore::new(MOST_WAITING)),
            knocks: Arc::default(),
            own: Arc::new(Cache::new(MOST_DEVICES)),
        }
    }
}

impl Gate {
    /// Counts a wrong try from an address; gives it back with a negative `by`.
    fn knock(&self, address: Option<IpAddr>, by: i32, now: i64) -> Result<(), StoreError> {
        let Some(address) = address else { return Ok(()) };
        let mut knocks = self.knocks.lock().unwrap_or_else(PoisonError::into_inner);
        if knocks.len() >= MOST_ADDRESSES {
            knocks.retain(|_, (_, since)| (0..WINDOW).contains(&(now - *since)));
        }
        let full = knocks.len() >= MOST_ADDRESSES && !knocks.contains_key(&address);
        let address = if full { Ipv6Addr::UNSPECIFIED.into() } else { address };
        let (count, since) = knocks.entry(address).or_insert((0, now));
        if !(0..WINDOW).contains(&(now - *since)) {
            (*count, *since) = (0, now);
        }
        if by > 0 && *count >= MOST_KNOCKS {
            return Err(StoreError::Wait(*since + WINDOW - now));
        }
        *count = count.saturating_add_signed(by);
        Ok(())
    }
}

/// The moment, in seconds since 1970 (UTC).
pub(crate) fn now() -> i64 {
    jiff::Timestamp::now().as_second()
}

impl App {
    /// Hashing, of which only so much is done at once.
    pub(crate) async fn hashing<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, WebError> {
        let _waiting = self.gate.waiting.try_acquire().map_err(|_| WebError::Busy)?;
        let _hashing = self.gate.hashing.acquire().await.map_err(|_| WebError::Broken)?;
        self.store(work).await
    }

    /// Whether a secret is right, the try counted before it is looked at. `name` is what was typed, if that is nobody's.
    async fn is_right(
        &self,
        caller: &Caller,
        known: Option<Actor>,
        name: &str,
        check: impl FnOnce(&Store) -> Result<bool, StoreError> + Send + 'static,
    ) -> Result<bool, WebError> {
        let (now, device) = (now(), caller.device.clone());
        let tried = match known {
            Some(actor) => self.store(move |s| s.tried(actor, device.as_deref())).await?,
            None => Tried::nobody(name),
        };
        let apart = matches!(tried, Tried::Device(..));
        if !apart {
            self.gate.knock(caller.address, 1, now)?;
        }
        let counted = tried.clone();
        self.store(move |s| s.begin_try(&counted, now)).await?;
        let right = self.hashing(check).await?;
        let own = caller.device.clone().map(|device| (tried.clone(), device));
        if !right {
            if let Some(own) = own {
                let before = self.gate.own.get(&own).unwrap_or_default();
                self.gate.own.insert(own, before + 1);
            }
            return Ok(false);
        }
        if !apart {
            self.gate.knock(caller.address, -1, now)?;
        }
        // Whoever is right now mistyped before; on a device of one's own all is forgiven.
        let before = own.as_ref().and_then(|own| self.gate.own.remove(own)).map_or(0, |(_, count)| count);
        let forgiven = if apart { u32::MAX >> 1 } else { before + 1 };
        self.store(move |s| s.forgive(&tried, forgiven)).await?;
        Ok(true)
    }

    /// The teacher with this name and password.
    pub(crate) async fn teacher_at_gate(&self, caller: &Caller, name: &str, password: String) -> Result<Id, WebError> {
        let typed = name.to_owned();
        let known = self.store(move |s| s.teacher_named(&typed)).await?;
        let right =
            self.is_right(caller, known.map(Actor::Teacher), name, move |s| s.is_password(known, &password)).await?;
        match known {
            Some(id) if right => Ok(id),
            Some(_) | None => Err(StoreError::WrongSecret("Wrong name or password. Try again.").into()),
        }
    }

    /// The student with this class code, name and PIN: one who comes back, or a new one.
    pub(crate) async fn student_at_gate(
        &self,
        caller: &Caller,
        code: &str,
        name: &str,
        pin: String,
    ) -> Result<Id, WebError> {
        let (code, name, first) = (code.to_owned(), name.to_owned(), pin.clone());
        let asks = self.store(move |s| s.applicant(&code, &name, &first)).await?;
        let Some(id) = asks.known else {
            let class = asks.class;
            let id = self.hashing(move |s| s.add_student(class, &asks.name, &pin)).await?;
            tracing::info!(student = id, class, "joined");
            return Ok(id);
        };
        let right = self.is_right(caller, Some(Actor::Student(id)), &asks.name, move |s| s.is_pin(id, &pin)).await?;
        if right { Ok(id) } else { Err(StoreError::WrongSecret(WRONG_PIN).into()) }
    }

    /// Lets a student into a partner's logbook.
    pub(crate) async fn partner_at_gate(&self, student: Id, code: String) -> Result<Id, WebError> {
        let (now, tried) = (now(), Tried::Partner(student));
        let joined = self.store(move |s| {
            s.begin_try(&tried, now)?;
            let outcome = s.join_logbook(student, &code, now);
            match &outcome {
                Ok(_) => s.forgive(&tried, u32::MAX >> 1)?,
                Err(StoreError::WrongSecret(_)) => {}
                // Refused for another reason, this was no guess; those before it were.
                Err(_) => s.forgive(&tried, 1)?,
            }
            outcome
        });
        let joined = joined.await;
        match &joined {
            Ok(logbook) => tracing::info!(student, logbook, "joined a partner"),
            Err(e) => tracing::info!(student, status = e.status().as_u16(), "refused as a partner"),
        }
        joined
    }

    /// Remembers the device of somebody who has just come in.
    pub(crate) async fn remember(&self, caller: &Caller, actor: Actor) -> Result<(), WebError> {
        let Some(device) = caller.device.clone() else { return Ok(()) };
        self.store(move |s| s.remember_device(actor, &device, now())).await
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_address_waits_after_many_wrong_tries_and_memory_is_bounded() {
        let gate = Gate::default();
        let address = |k: u32| Some(IpAddr::from(k.to_be_bytes()));
        (0..MOST_KNOCKS).for_each(|_| gate.knock(address(1), 1, 1000).unwrap());
        assert!(matches!(gate.knock(address(1), 1, 1100), Err(StoreError::Wait(500))));
        gate.knock(address(2), 1, 1100).unwrap();
        gate.knock(address(1), 1, 1600).unwrap();
        // A clock that is set back holds up nobody.
        (0..MOST_KNOCKS).for_each(|_| gate.knock(address(3), 1, 5000).unwrap());
        gate.knock(address(3), 1, 4000).unwrap();
        for k in 0..20_000 {
            let _ = gate.knock(address(1000 + k), 1, 2000);
        }
        assert!(gate.knocks.lock().unwrap().len() <= MOST_ADDRESSES + 1);
    }

    #[test]
    fn an_ipv6_address_counts_as_its_network() {
        let of = |text: &str| network_of(text.parse().unwrap());
        assert_eq!(of("2001:db8:1:2:aaaa::1"), of("2001:db8:1:2:bbbb::9"));
        assert_ne!(of("2001:db8:1:2::1"), of("2001:db8:1:3::1"));
        assert_eq!(of("::ffff:192.0.2.7"), of("192.0.2.7"));
    }
}
