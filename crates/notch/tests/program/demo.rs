use super::support::Folder;

#[test]
fn the_demo_runs_again_and_spares_what_was_changed() {
    let mut folder = Folder::with(&[]);
    folder.show(&["demo"]);
    let first = std::mem::take(&mut folder.screen);
    insta::assert_snapshot!(first);

    folder.show(&["demo"]);
    let again = std::mem::take(&mut folder.screen);
    let there = "The demo files are in fernhollow-demo already.";
    assert_eq!(again.replace(there, "8 demo files were written to fernhollow-demo."), first);

    folder.write("fernhollow-demo/lots.csv", b"mine");
    folder.show(&["demo"]);
    assert_eq!(folder.read("fernhollow-demo/lots.csv"), "mine");
    insta::assert_snapshot!(folder.screen, @r"
    $ notch demo
    said: Stopped: in fernhollow-demo these demo files have been changed: lots.csv.
    said: Nothing was written. Overwrite them with --force, or name another folder: notch demo FOLDER.
    status 2
    ");
    let (_, _, status) = folder.run(&["demo", "--force"], b"");
    assert_eq!(status, 0);
    assert!(folder.read("fernhollow-demo/lots.csv").starts_with("lot,"));
}
