package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.Test;

class NumberingTest {

    private static final Field NUMBER = Field.of("number", "Number", FieldType.TEXT);
    private static final Numbering NUMBERING =
            new Numbering(new Register("journal", "Journal", "records.journal", "id", List.of(NUMBER)), NUMBER, "T-");

    @Test
    void theNextComesAfterTheHighestAndIsAsWide() {
        assertThat(NUMBERING.after(List.of("T-7", "T-12", "T-9"), 2)).containsExactly("T-13", "T-14");
        assertThat(NUMBERING.after(List.of("T-0099", "T-0098"), 2)).containsExactly("T-0100", "T-0101");
        assertThat(NUMBERING.after(List.of("T-99"), 1)).containsExactly("T-100");
        assertThat(NUMBERING.after(List.of("T-99999999999999999999"), 1)).containsExactly("T-100000000000000000000");
    }

    @Test
    void whatIsNumberedOtherwiseDoesNotCount() {
        List<String> others = Arrays.asList("T-", "t-5", "T-5a", "XT-6", null, "T- 7", "T-٣");
        assertThat(NUMBERING.isAny(others)).isFalse();
        assertThat(NUMBERING.after(others, 1)).containsExactly("T-1");
    }

    @Test
    void aPrefixIsTakenLetterByLetter() {
        Numbering odd = new Numbering(NUMBERING.register(), NUMBER, "a.*(\\E");
        assertThat(odd.isAny(List.of("abc(\\E4"))).isFalse();
        assertThat(odd.after(List.of("a.*(\\E4"), 1)).containsExactly("a.*(\\E5");
    }
}
