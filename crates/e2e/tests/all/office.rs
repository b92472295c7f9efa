//! The teacher's desk in a real browser: new names wait for a nod, a PIN is replaced, a session is ended, a student moves, and what was done is
//! looked back at; with the mouse and without.

use serde_json::{Value, json};

use crate::common::{Browser, Lab, key};
use fantoccini::Locator;
use fantoccini::key::Key;

#[tokio::test]
async fn a_teacher_keeps_a_class_in_order() {
    let lab = Lab::demo();
    let teacher = lab.browser().await;
    teacher.teach().await;
    teacher.fill("form[action='/classes'] [name=name]", "9a").await;
    teacher.click("form[action='/classes'] button").await;
    teacher.until("document.querySelector('h1').innerText === '9a'").await;
    // Said in clear on the same machine, nobody can listen: there is nothing to warn of.
    teacher.until("!document.getElementById('in-clear')").await;
    teacher.click("#office [value=ask]").await;
    teacher.until("document.querySelector('#office [value=ask_not]')").await;
    let code = teacher.text(".board .code").await;

    let student = lab.browser().await;
    student.join(&code, "Alma Uhrich").await;
    student.until("document.body.innerText.includes('has to let you in first')").await;
    student.accessible("a name that waits").await;

    // Looked at again, the class shows the name; one button lets it in.
    let class = teacher.path().await;
    teacher.open(&class).await;
    teacher.accessible("a class with a new name").await;
    teacher.tab_to("#nod button").await;
    teacher.keys(&key(Key::Enter)).await;
    teacher.until("!document.getElementById('nod')").await;
    student.open("/labs").await;
    student.until("document.body.innerText.includes('has not assigned a lab yet')").await;

    // Her page: where she is signed in, and one of these places ended.
    teacher.click_beside("li", "Alma Uhrich", "a").await;
    teacher.until("document.querySelector('.sessions li').innerText.includes('Chromium on Linux')").await;
    teacher.accessible("a student").await;
    teacher.click(".sessions button").await;
    teacher.until("document.querySelector('.said').innerText.includes('signed out there')").await;
    student.open("/labs").await;
    student.until("location.pathname === '/'").await;
    teacher.fill("[name=pin]", "1111\n").await;
    teacher.until("document.querySelector('.said').innerText.includes('Everybody would try this PIN first')").await;
    teacher.fill("[name=pin]", "3141\n").await;
    teacher.until("document.querySelector('.said').innerText.includes('The PIN is changed')").await;

    // Over to the other class; there somebody has her name, which is said and changes nothing.
    teacher.choose("[name=class]", "10b, physics on Tuesdays").await;
    teacher.click_beside("form", "Move to", "button").await;
    teacher.until("document.querySelector('.said').innerText.includes('Choose another')").await;
    teacher.fill("[name=name]", "Alma Uhrich the younger\n").await;
    teacher.until("document.querySelector('.said').innerText.includes('The name is changed')").await;
    teacher.choose("[name=class]", "10b, physics on Tuesdays").await;
    teacher.click_beside("form", "Move to", "button").await;
    teacher.until("document.querySelector('main p a').innerText.includes('10b')").await;

    // Back in the class that works: who did what in a logbook.
    teacher.click("main p a").await;
    teacher.until("document.getElementById('standings')").await;
    teacher.click_beside("#standings tr", "Veit Kettner", "td a").await;
    teacher.bench().await;
    teacher.click_beside("header .people", "History", "a").await;
    teacher.until("document.querySelectorAll('.past tbody tr').length > 10").await;
    teacher.accessible("who did what").await;
    let told = teacher.client.execute("return document.querySelector('.list tbody').innerText", vec![]).await.unwrap();
    assert!(told.as_str().unwrap().contains("Veit Kettner"), "{told}");
    assert!(teacher.client.find(Locator::Css("button[name=to]")).await.is_err(), "only who works in it goes back");
    // Whoever works in it goes back to an earlier edit, and forth again by undo.
    let minna = lab.browser().await;
    minna.open("/").await;
    minna.click_beside(".guests li", "Minna Talhoff", "button").await;
    minna.until("location.pathname === '/labs'").await;
    minna.lab("2.1").await;
    let rows = "document.querySelectorAll('#part-record tbody tr:not([data-begun])').length";
    let before = minna.until(rows).await;
    minna.click("header a[href$='/history']").await;
    minna.accessible("a history to go back in").await;
    minna.click("tr:nth-child(30) button[name=to]").await;
    minna.bench().await;
    minna.until(&format!("{rows} < {before}")).await;

    follows(&teacher, &minna, (rows, &before)).await;

    // The account: this browser is one of the places, and cannot end itself by mistake.
    teacher.open("/account").await;
    teacher.accessible("my account").await;
    let own =
        teacher.client.execute("return document.querySelectorAll('.sessions button').length", vec![]).await.unwrap();
    assert_eq!(own, json!(0));
}

/// The class page hears of edits while it is open: its cell follows, and the link at hand stays at hand.
async fn follows(teacher: &Browser, minna: &Browser, (rows, before): (&str, &Value)) {
    teacher.click("a[href^='/classes/']").await;
    let edits = "Number([...document.querySelectorAll('#standings tr')].find(r => r.innerText.includes('Minna Talhoff')).querySelector('a[title$=edits]').title.split(' ')[0])";
    let heard = teacher.until(edits).await;
    let focus = "document.querySelector('#standings tbody th a').focus()";
    teacher.client.execute(focus, vec![]).await.unwrap();
    minna.click("[data-edit='\"undo\"']").await;
    minna.until(&format!("{rows} === {before}")).await;
    // Of two moves in the same second the last one is seen, too.
    minna.click("[data-edit='\"redo\"']").await;
    minna.until(&format!("{rows} < {before}")).await;
    minna.click("[data-edit='\"undo\"']").await;
    minna.until(&format!("{rows} === {before}")).await;
    teacher.until(&format!("{edits} === {heard} + 3")).await;
    teacher.until("document.activeElement.matches('#standings tbody th a')").await;
}
