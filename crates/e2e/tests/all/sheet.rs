//! A sheet of a teacher's own: begun for a rig, written after the guide, assigned, dealt to each student, and its key.

use crate::common::Lab;

/// The sheet the guide prints.
fn example() -> &'static str {
    let guide = include_str!("../../../../docs/lab-sheets.md");
    guide.split_once("```sheet\n").and_then(|(_, after)| after.split_once("```")).unwrap().0
}

#[tokio::test(flavor = "multi_thread")]
async fn a_teacher_writes_a_sheet_and_every_student_gets_a_trolley_of_their_own() {
    let lab = Lab::demo();
    let teacher = lab.browser().await;
    teacher.teach().await;
    teacher.open("/sheets/guide").await;
    teacher.accessible("the guide to sheets").await;
    assert!(teacher.text("#rig-slope + .scroll").await.contains("Earth, Moon, Mars"));
    teacher.open("/sheets").await;
    teacher.choose("[name=rig]", "driven trolley").await;
    teacher.click("form[action='/sheets'] button").await;
    teacher
        .until("document.querySelector('#draft-beside h1')?.textContent.includes('A lab with the driven trolley')")
        .await;
    // It reads as it stands, and each setting can be filled in.
    teacher.until("document.querySelector('#area-settings').innerText.includes('rolling friction')").await;
    teacher.accessible("the drafting table").await;
    teacher.click("#draft-head .tabs a[href$=text]").await;
    teacher.fill("#source", example()).await;
    teacher.until("document.querySelector('#draft-beside h1')?.textContent.includes('Two thrust units')").await;
    // What lies on the bench is told, and that no balance does.
    teacher.click("#for-teacher summary").await;
    let bench = teacher.text("#for-teacher").await;
    assert!(
        bench.contains("Instruments beside tape and split: timer at the buffer, speed at the buffer, force gauge"),
        "{bench}"
    );
    assert!(!bench.contains("balance") && bench.contains("Arrows: velocity."), "{bench}");
    teacher.accessible("a sheet as a text").await;
    teacher.click("#save-sheet").await;
    teacher.until("document.querySelector('#draft-said.saved')").await;
    teacher.open("/classes/1").await;
    teacher.choose("select[name=sheet]", "5.9 Two thrust units (my own)").await;
    teacher.click("form[action$='/labs'] button").await;
    teacher
        .until(
            "[...document.querySelectorAll('.labs-of-class th')].some(h => h.innerText.includes('Two thrust units'))",
        )
        .await;

    let mut masses = Vec::new();
    for name in ["Ruth Anselm", "Veit Kettner"] {
        let student = lab.browser().await;
        student.join(&lab.code(), name).await;
        student.lab("Two thrust units").await;
        student.click(".spine a[data-step=measure]").await;
        assert!(student.text("#part-stage").await.contains("Hidden by the sheet: trolley mass"));
        student.click("#run").await;
        student.until("document.getElementById('stage').dataset.playing === 'true'").await;
        student.click("#run").await;
        student.until("!['–', ''].includes(document.querySelector('[data-meter=time]').textContent)").await;
        student.until("!document.querySelector('[data-meter=mass]') && !document.getElementById('part-stage').innerText.includes('balance')").await;
        let seq = student.seq().await;
        student.click("[data-log=setting][data-name='thrust 1']").await;
        student.moved(seq).await;
        student.enter("meter][data-name=time").await;
        teacher.open(&student.path().await).await;
        teacher.bench().await;
        teacher.click(".spine a[data-step=constant]").await;
        let key = teacher.text(".key").await;
        assert!(key.contains("Key: m = (") && key.contains("There is no result yet."), "{key}");
        let dealt = key.lines().find(|l| l.starts_with("trolley mass: ")).expect("what was dealt").to_owned();
        assert!(dealt.ends_with("kg (dealt and hidden)"), "{dealt}");
        masses.push(dealt);
    }
    assert_ne!(masses[0], masses[1], "each has a trolley of their own");
}
