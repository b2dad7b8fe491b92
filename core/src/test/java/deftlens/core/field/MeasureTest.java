package deftlens.core.field;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

class MeasureTest {

    private static Field field(String label, FieldType type) {
        return new Field("key", label, type, "key", false, List.of(), List.of(), Optional.empty());
    }

    @Test
    void isCalledWhatItIs() {
        assertThat(Measure.of(Measure.Function.SUM, field("Cost", FieldType.MONEY))
                        .words())
                .isEqualTo("sum of Cost");
        assertThat(Measure.of(Measure.Function.MIN, field("Due", FieldType.DATE))
                        .words())
                .isEqualTo("earliest Due");
        assertThat(Measure.of(Measure.Function.MAX, field("Work time", FieldType.DURATION))
                        .words())
                .isEqualTo("longest Work time");
        assertThat(new Measure(Measure.Function.COUNT, Optional.empty()).words())
                .isEqualTo("number of records");
    }

    @Test
    void percentilesSayWhich() {
        Field cost = field("Cost", FieldType.MONEY);
        assertThat(Stream.of(1, 2, 3, 4, 11, 12, 13, 21, 22, 23, 50, 99)
                        .map(p -> Measure.percentile(p, cost).words().replaceFirst(" .*", "")))
                .containsExactly(
                        "1st", "2nd", "3rd", "4th", "11th", "12th", "13th", "21st", "22nd", "23rd", "50th", "99th");
        assertThat(Measure.of(Measure.Function.PERCENTILE, cost))
                .isEqualTo(Measure.percentile(90, cost))
                .extracting(Measure::words, Measure::key, Measure::type)
                .containsExactly("90th percentile of Cost", "percentile_90_of_key", FieldType.MONEY);
        for (int no : new int[] {0, 100, -1}) {
            assertThatThrownBy(() -> Measure.percentile(no, cost)).hasMessageContaining("one of 1 to 99, not " + no);
        }
        assertThatThrownBy(() -> new Measure(Measure.Function.SUM, Optional.of(cost), Optional.of(50)))
                .hasMessage("only a percentile has a percent");
    }

    @Test
    void isOfItsFieldsTypeOrANumber() {
        assertThat(Measure.of(Measure.Function.MAX, field("Due", FieldType.DATE))
                        .type())
                .isEqualTo(FieldType.DATE);
        assertThat(Measure.of(Measure.Function.DISTINCT, field("Due", FieldType.DATE))
                        .type())
                .isEqualTo(FieldType.NUMBER);
        assertThat(Measure.of(Measure.Function.AVERAGE, field("Work time", FieldType.DURATION))
                        .type())
                .isEqualTo(FieldType.DURATION);
    }

    @Test
    void doesNotFitEveryField() {
        assertThatThrownBy(() -> Measure.of(Measure.Function.SUM, field("Title", FieldType.TEXT)))
                .hasMessage("there is no sum of Title, which holds text");
        assertThatThrownBy(() -> new Measure(Measure.Function.SUM, Optional.empty()))
                .hasMessage("the field is missing");
        assertThatThrownBy(() -> Measure.of(Measure.Function.COUNT, field("Title", FieldType.TEXT)))
                .hasMessage("records are counted without a field");
    }

    @Test
    void eachFunctionFitsSomeField() {
        Set<Measure.Function> fitting = new HashSet<>(Set.of(Measure.Function.COUNT));
        for (FieldType type : FieldType.values()) {
            fitting.addAll(Measure.Function.of(type));
            Measure.Function.of(type).forEach(f -> assertThat(f.words(type)).isNotBlank());
        }
        assertThat(fitting).containsExactlyInAnyOrder(Measure.Function.values());
        assertThat(Arrays.stream(Measure.Function.values()).map(Measure.Function::label))
                .doesNotHaveDuplicates();
    }
}
