package deftlens.demo;

import deftlens.server.people.Role;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** The people of the Hollin Sound Harbour Trust; all of them invented. */
final class Staff {

    static final String PASSWORD = "demo-only";
    static final List<String> SITES =
            List.of("North Quay", "Cooper's Basin", "Lantern Pier", "Mirefleet Moorings", "Outer Roads");
    static final List<String> TEAMS = List.of("Harbour office", "Quay crews", "Stores and yard", "Water and power");

    /** One member of staff. */
    record Member(String name, String fullName, String about, Role role, Optional<String> site, List<String> teams) {}

    private static final List<String> CREW = List.of(
            "Lise Farrow",
            "Oren Bask",
            "Rhona Tolland",
            "Selwyn Wick",
            "Edda Marsh",
            "Corin Pell",
            "Maud Ferris",
            "Ivo Lantry",
            "Thea Sands",
            "Gil Hawser",
            "Nerys Cobb",
            "Jory Tamsin",
            "Pia Windle",
            "Rafe Stannard",
            "Una Brill",
            "Amos Keel",
            "Dilys Orme",
            "Finn Harrow",
            "Greta Moss",
            "Hale Ridley",
            "Isla Venn",
            "Jonas Thwaite",
            "Kit Amberley",
            "Lowen Speke",
            "Mira Dunnock",
            "Ned Quarrie",
            "Orla Finch",
            "Piers Gannet",
            "Rosalind Ebb",
            "Silas Croft");

    private Staff() {}

    /** The six whom the sign-in page offers. */
    static List<Member> offered() {
        return List.of(
                new Member(
                        "ines.marlow",
                        "Ines Marlow",
                        "administrator",
                        Role.ADMINISTRATOR,
                        Optional.empty(),
                        List.of("Harbour office")),
                new Member(
                        "tomas.rell",
                        "Tomas Rell",
                        "finance clerk",
                        Role.MEMBER,
                        Optional.empty(),
                        List.of("Harbour office")),
                new Member(
                        "asta.quill",
                        "Asta Quill",
                        "supervisor, North Quay",
                        Role.MEMBER,
                        Optional.of("North Quay"),
                        List.of("Quay crews")),
                new Member(
                        "bram.oake",
                        "Bram Oake",
                        "supervisor, Lantern Pier",
                        Role.MEMBER,
                        Optional.of("Lantern Pier"),
                        List.of("Quay crews")),
                new Member(
                        "wren.halloway",
                        "Wren Halloway",
                        "storekeeper, Cooper's Basin",
                        Role.MEMBER,
                        Optional.of("Cooper's Basin"),
                        List.of("Stores and yard")),
                new Member(
                        "petra.lind",
                        "Petra Lind",
                        "auditor: reads everything, changes nothing",
                        Role.AUDITOR,
                        Optional.empty(),
                        List.of("Harbour office")));
    }

    /** Everybody: the six, then the crews of each site in turn. */
    static List<Member> everybody() {
        List<Member> all = new ArrayList<>(offered());
        for (int i = 0; i < CREW.size(); i++) {
            String fullName = CREW.get(i);
            all.add(new Member(
                    fullName.toLowerCase(Locale.ROOT).replace(' ', '.'),
                    fullName,
                    "crew",
                    Role.MEMBER,
                    Optional.of(SITES.get(i % SITES.size())),
                    List.of(TEAMS.get(1 + i % (TEAMS.size() - 1)))));
        }
        return all;
    }
}
