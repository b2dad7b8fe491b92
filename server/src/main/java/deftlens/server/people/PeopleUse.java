package deftlens.server.people;

import java.util.List;

/** Told by every feature that leans on people, teams and facts about people, so that none is taken away from under it. */
public interface PeopleUse {

    /** What leans on a team, each in a few words. */
    List<String> ofTeam(long team);

    /** What leans on {@code my …}, each in a few words. */
    List<String> ofAttribute(String key);

    /** How many things a person owns that somebody has to take over when they leave. */
    default int ownedBy(long person) {
        return 0;
    }
}
