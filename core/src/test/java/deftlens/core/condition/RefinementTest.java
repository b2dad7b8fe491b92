package deftlens.core.condition;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class RefinementTest {

    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);
    private static final long SEED = 20_261_126;

    /** What stands for the parts in the worked cases. */
    private static Condition read(String letters) {
        List<Condition> parts = new ArrayList<>();
        for (char letter : letters.toCharArray()) {
            parts.add(READER.read("title is \"" + letter + "\""));
        }
        return new Condition.All(parts).normal();
    }

    private static String letters(Condition condition) {
        StringBuilder found = new StringBuilder();
        for (Condition part : Refinement.parts(condition)) {
            found.append(Printer.print(part).replaceAll(".*\"(.)\".*", "$1"));
        }
        return found.toString();
    }

    @ParameterizedTest(name = "{0} refined to {1}, now {2}: {3}, lost {4}")
    @CsvSource(
            value = {
                // the view is as it was
                "abc, abcx, abc, abcx, -",
                "abc, axbc, abc, axbc, -",
                "abc, ac,   abc, ac,   -",
                // the owner adds
                "abc, abcx, abcd, abcdx, -",
                "abc, aXc,  dabc, daXc, -",
                "abc, ac,   abcd, acd,  -",
                // the owner takes away what the reader left alone
                "abc, abcx, ac,   acx,  -",
                // the owner takes away, or changes, what the reader had changed or left out
                "abc, aXc,  ac,   ac,   X",
                "abc, aXc,  aYc,  aYc,  X",
                "abc, ac,   aYc,  aYc,  b",
                // both add the same
                "abc, abcx, abcx, abcx, -",
                // the owner orders anew
                "abc, aXc,  cba,  cXa,  -",
                // everything and nothing
                "-,   x,    ab,   abx,  -",
                "ab,  -,    ab,   -,    -",
                "ab,  ab,   cd,   cd,   -",
            })
    void isCarriedOver(String base, String mine, String now, String expected, String lost) {
        Refinement.Outcome outcome =
                Refinement.between(read(plain(base)), read(plain(mine))).on(read(plain(now)));
        assertThat(letters(outcome.condition())).isEqualTo(plain(expected));
        assertThat(outcome.lost().stream().map(RefinementTest::letters).reduce("", String::concat))
                .isEqualTo(plain(lost));
    }

    private static String plain(String letters) {
        return letters.equals("-") ? "" : letters;
    }

    @Test
    void locksFollowTheirParts() {
        assertThat(Refinement.between(read("abc"), read("xabc")).carry(Set.of(0, 2)))
                .containsExactly(1, 3);
        assertThat(Refinement.between(read("abc"), read("aXc")).carry(Set.of(1)))
                .containsExactly(1);
        assertThat(Refinement.between(read("abc"), read("ac")).carry(Set.of(1, 2)))
                .containsExactly(1);
        assertThat(Refinement.between(read("abc"), read("")).carry(Set.of(0, 1, 2, 9)))
                .isEmpty();
    }

    @Test
    void whatIsTouchedIsWhatIsNoLongerThere() {
        assertThat(Refinement.between(read("abc"), read("abcx")).touched()).isEmpty();
        assertThat(Refinement.between(read("abc"), read("aXc")).touched()).containsExactly(1);
        assertThat(Refinement.between(read("abc"), read("c")).touched()).containsExactly(0, 1);
        assertThat(Refinement.between(read("ab"), read("ab")).isNothing()).isTrue();
    }

    @Test
    void randomRefinementsOfRandomConditionsHoldTogether() {
        Generate generate = new Generate(SEED);
        Random random = generate.random();
        for (int i = 0; i < 3_000; i++) {
            Condition base = new Condition.All(some(generate, random)).normal();
            Condition mine = changed(base, generate, random);
            Condition now = changed(base, generate, random);
            Refinement refinement = Refinement.between(base, mine);
            String about = "seed " + SEED + ", case " + i;
            assertThat(refinement.on(base).condition()).as(about).isEqualTo(mine);
            assertThat(refinement.on(base).lost()).as(about).isEmpty();
            assertThat(Refinement.between(base, base).on(now).condition())
                    .as(about)
                    .isEqualTo(now);
            Condition outcome = refinement.on(now).condition();
            List<Condition> parts = Refinement.parts(outcome);
            List<Condition> of = Refinement.parts(base);
            // Every part the owner added stands, and every one that the reader added.
            assertThat(parts)
                    .as(about)
                    .containsAll(Refinement.parts(now).stream()
                            .filter(p -> !of.contains(p))
                            .flatMap(p -> Refinement.parts(p).stream())
                            .toList());
            assertThat(outcome).as(about).isEqualTo(outcome.normal());
        }
    }

    private static List<Condition> some(Generate generate, Random random) {
        List<Condition> parts = new ArrayList<>();
        for (int i = random.nextInt(5); i >= 0; i--) {
            parts.add(generate.condition(2));
        }
        return parts;
    }

    private static Condition changed(Condition base, Generate generate, Random random) {
        List<Condition> parts = new ArrayList<>(Refinement.parts(base));
        for (int i = random.nextInt(3); i >= 0; i--) {
            switch (random.nextInt(4)) {
                case 0 -> parts.add(random.nextInt(parts.size() + 1), generate.condition(2));
                case 1 -> Collections.shuffle(parts, random);
                case 2 -> {
                    if (!parts.isEmpty()) {
                        parts.remove(random.nextInt(parts.size()));
                    }
                }
                default -> {
                    if (!parts.isEmpty()) {
                        parts.set(random.nextInt(parts.size()), generate.condition(2));
                    }
                }
            }
        }
        return new Condition.All(parts).normal();
    }
}
