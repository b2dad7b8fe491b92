package deftlens.server.people;

import com.nulabinc.zxcvbn.Strength;
import com.nulabinc.zxcvbn.Zxcvbn;
import deftlens.server.platform.Problem;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.springframework.stereotype.Component;

/** What a password must be: long enough, and not one that is guessed in a hundred million tries. */
@Component
class PasswordRules {

    private static final int LEAST = 9;

    /** What BCrypt takes in. */
    private static final int MOST_BYTES = 72;

    /** On the estimator's scale of 0 to 4: more than 10⁸ guesses. */
    private static final int LEAST_SCORE = 3;

    private final Zxcvbn estimator = new Zxcvbn();

    /**
     * Refuses a password that is too short, too long, or easily guessed by who knows these names.
     *
     * @param at the property of the request that it came in
     */
    void require(String at, String password, String name, String fullName) {
        requireLength(at, password);
        List<String> known = new ArrayList<>(List.of(name, "deft", "lens", "deftlens"));
        known.addAll(Arrays.asList(fullName.split("\\s+")));
        Strength strength = estimator.measure(password, known);
        if (strength.getScore() < LEAST_SCORE) {
            String why = strength.getFeedback().getWarning();
            throw Problem.unprocessable(
                            "guessable-password",
                            "This password is too easy to guess"
                                    + (why.isBlank() ? "" : ": " + why.replaceAll("\\.$", ""))
                                    + ". Take several words that have nothing to do with each other or with you.")
                    .at(at);
        }
    }

    /** Refuses a password that is too short or too long. */
    static void requireLength(String at, String password) {
        if (password.length() < LEAST) {
            throw Problem.unprocessable("weak-password", "A password needs at least " + LEAST + " characters.")
                    .at(at);
        }
        if (password.getBytes(StandardCharsets.UTF_8).length > MOST_BYTES) {
            throw Problem.unprocessable("long-password", "A password may have at most " + MOST_BYTES + " bytes.")
                    .at(at);
        }
    }
}
