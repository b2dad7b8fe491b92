package deftlens.server.people;

import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import java.util.List;
import org.springframework.http.HttpStatus;

/** What holds whatever an administrator changes: who may, that nobody changed it meanwhile, and what is still used stays. */
final class Administering {

    /** The longest name or value, in characters. */
    static final int LONGEST = 120;

    private Administering() {}

    /** @throws Problem (403) when it is no administrator */
    static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes people and teams.");
        }
    }

    /** A text without spaces around it, of at least one and at most {@value #LONGEST} characters; {@code at} says where it stands. */
    static String required(String at, String what, String text) {
        String plain = text.strip().replaceAll("\\s+", " ");
        if (!VisibleText.isVisible(plain) || plain.codePointCount(0, plain.length()) > LONGEST) {
            throw Problem.unprocessable("bad-text", what + " has 1 to " + LONGEST + " characters.")
                    .at(at);
        }
        return plain;
    }

    /** That somebody else was first (409). */
    static Problem changedMeanwhile(String what) {
        return new Problem(
                HttpStatus.CONFLICT,
                "changed-meanwhile",
                "Somebody else changed " + what
                        + " after you opened it. Nothing of yours was written; look at theirs and try again.");
    }

    /** @throws Problem (409) when something leans on what is to go, with what does */
    static void requireUnused(String what, List<String> used) {
        if (!used.isEmpty()) {
            List<String> shown = used.subList(0, Math.min(used.size(), 5));
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "still-used",
                            what + " by " + String.join(", ", shown)
                                    + (used.size() > shown.size()
                                            ? " and " + (used.size() - shown.size()) + " more"
                                            : "")
                                    + ". Change those first.")
                    .with("used", used);
        }
    }
}
