package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import java.util.Collections;
import org.junit.jupiter.api.Test;

/** A statement has at most {@value Condition#MAX_CRITERIA} criteria, and more are refused before anything is made of them. */
class LimitsTest {

    private static final Reader READER = new Reader(deftlens.core.Generate.REGISTER, java.util.Set.of("site"));

    private static String criteria(int many) {
        return String.join(" or ", Collections.nCopies(many, "severity between 1 and 2 and severity = 3"));
    }

    @Test
    void aThousandCriteriaAreRead() {
        Condition condition = READER.read(criteria(500));
        assertThat(condition.criteria()).hasSize(1_000);
        assertThat(READER.read(Printer.print(condition))).isEqualTo(condition);
        for (Parts.Part part : Parts.of(condition)) {
            assertThat(Parts.at(condition, part.path())).contains(part.part());
        }
    }

    @Test
    void oneMoreIsRefusedWithItsPlace() {
        String text = criteria(500) + " or severity = 4";
        assertThatThrownBy(() -> READER.read(text)).isInstanceOfSatisfying(StatementError.class, e -> {
            assertThat(e.getMessage()).startsWith("A statement has at most 1000 criteria.");
            assertThat(e.place().offset()).isEqualTo(text.lastIndexOf("or "));
        });
        assertThatThrownBy(() -> READER.read("severity = 1 and ".repeat(50_000) + "severity = 1"))
                .isInstanceOf(StatementError.class);
    }

    @Test
    void nothingStandsWhereNothingIs() {
        Condition condition = READER.read("severity = 1 and (severity = 2 or off(severity = 3))");
        for (String path :
                new String[] {"/any/0", "/all/2", "/all/x", "/all", "/all/1/any/1", "/all/0/all/0", "/all/99999999999"
                }) {
            assertThat(Parts.at(condition, path)).as(path).isEmpty();
        }
    }
}
