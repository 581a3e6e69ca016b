use super::support::Folder;

#[test]
fn jigs_are_run_and_their_mistakes_named() {
    let jigs = [
        (
            "good.toml",
            "column = \"lot\"\n[lists]\nhouses = [\"FH\"]\nnames = { FH = \"Fernhollow\" }\n[cuts]\n\"house, n?\" = 'parts by \"-\"'\nn2 = { cut = '{n} | pad left 3 with \"0\" else \"\"', about = \"padded\" }\nours = '\"yes\" if {house} is in houses and {house} is in names else \"no\"'\nweight = { cut = '{weight} | number', replace = true }\n",
        ),
        ("key.toml", "titel = \"x\"\n[cuts]\na = 'first 2'\n"),
        ("cutkey.toml", "[cuts]\na = { cut = 'first 2', abuot = \"x\" }\n"),
        ("broken.toml", "[cuts]\na = 'first 2\n"),
        ("cut.toml", "column = \"lot\"\n[cuts]\na = 'frist 2'\n"),
        ("list.toml", "column = \"lot\"\n[lists]\nhouses = [\"FH\"]\n[cuts]\na = '\"x\" if {lot} is in house'\n"),
        ("column.toml", "column = \"lt\"\n[cuts]\na = 'first 2'\n"),
    ];
    let mut folder = Folder::with(&jigs);
    folder.write("t.csv", b"lot,weight\nFH-1,\"1,200 g\"\nGR,5\n");
    for (name, _) in jigs {
        folder.show(&["carve", "t.csv", "-j", name]);
    }
    folder.show(&["carve", "t.csv", "-j", "none.toml"]);
    folder.show(&["carve", "t.csv", "-j", "good.toml", "last = {ours} | first 1", "--only"]);
    insta::assert_snapshot!(folder.screen);
}
