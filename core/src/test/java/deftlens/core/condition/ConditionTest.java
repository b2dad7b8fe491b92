package deftlens.core.condition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.core.Generate;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import org.junit.jupiter.api.Test;

class ConditionTest {

    private static final Condition A = Condition.Criterion.of("a", new deftlens.core.condition.Test.Empty());
    private static final Condition B = Condition.Criterion.of("b", new deftlens.core.condition.Test.Empty());

    private static Condition all(Condition... parts) {
        return new Condition.All(List.of(parts));
    }

    private static Condition any(Condition... parts) {
        return new Condition.Any(List.of(parts));
    }

    private static Condition none(Condition... parts) {
        return new Condition.None(List.of(parts));
    }

    @Test
    void aCriterionNamesItsFieldAndTheOneBesideIt() {
        Condition.Criterion beside = Condition.Criterion.of(
                "closed_at",
                new deftlens.core.condition.Test.FieldComparison(
                        deftlens.core.condition.Test.Relation.AFTER, "due", java.util.Optional.empty(), false));
        assertThat(beside.names("closed_at")).isTrue();
        assertThat(beside.names("due")).isTrue();
        assertThat(beside.names("until")).isFalse();
    }

    @Test
    void theNormalFormHasOneShapeForOneQuestion() {
        assertThat(all(all(A), any(B)).normal()).isEqualTo(all(A, B));
        assertThat(any(A, any(B, A)).normal()).isEqualTo(any(A, B, A));
        assertThat(none(any(A, B)).normal()).isEqualTo(none(A, B));
        assertThat(none(none(A)).normal()).isEqualTo(none(none(A)));
        assertThat(any(A, all()).normal()).as("an empty group asks nothing").isEqualTo(A);
        assertThat(new Condition.Off(new Condition.Off(A)).normal()).isEqualTo(new Condition.Off(A));
        assertThat(all(new Condition.Off(all())).normal()).isEqualTo(Condition.EVERYTHING);
        assertThat(none().normal()).isEqualTo(Condition.EVERYTHING);
    }

    @Test
    void theNormalFormIsItsOwn() {
        Generate generate = new Generate(5);
        for (int i = 0; i < 5_000; i++) {
            Condition normal = generate.condition(6).normal();
            assertThat(normal.normal()).isEqualTo(normal);
            assertThat(normal.depth()).isLessThanOrEqualTo(6);
        }
    }

    @Test
    void criteriaAreListedInTheirOrderThoseSwitchedOffIncluded() {
        assertThat(all(A, new Condition.Off(any(B, A))).criteria())
                .containsExactly((Condition.Criterion) A, (Condition.Criterion) B, (Condition.Criterion) A);
    }

    @Test
    void whatCannotBeAskedCannotBeMade() {
        assertRefused(() -> Condition.Criterion.not(
                "a",
                new deftlens.core.condition.Test.Dated(
                        deftlens.core.condition.Test.DateRelation.BEFORE, new Period.NearDay(0))));
        assertRefused(() -> new deftlens.core.condition.Test.In(List.of(), false));
        assertRefused(
                () -> new deftlens.core.condition.Test.Find(deftlens.core.condition.Test.Search.CONTAINS, "", false));
        assertRefused(() -> new Operand.Text("nul\u0000"));
        assertRefused(() -> new Operand.Text("half \ud83d of a pair"));
        assertRefused(() -> new Operand.Number(new BigDecimal("1e70")));
        assertRefused(() -> new Period.Running(Period.Side.LAST, 0, Unit.DAY));
        assertRefused(() -> new Period.Running(Period.Side.LAST, Period.MAX_COUNT + 1, Unit.DAY));
        assertRefused(() -> new Period.Calendar(Period.Which.THIS, Unit.DAY));
        assertRefused(() -> new Period.StartOf(new Period.Away(Period.Side.LAST, 2, Unit.HOUR)));
        assertRefused(() -> new Period.Week(2025, 53));
        assertRefused(
                () -> new Period.Range(new Period.Range(new Period.Year(1), new Period.Year(2)), new Period.Year(3)));
    }

    @Test
    void numbersAreTheSameHoweverTheyAreWritten() {
        assertThat(new Operand.Number(new BigDecimal("3.00"))).isEqualTo(Operand.Number.of(3));
        assertThat(new Operand.Number(new BigDecimal("1E2"))).isEqualTo(Operand.Number.of(100));
        assertThat(new Operand.Number(new BigDecimal("-0.0"))).isEqualTo(Operand.Number.of(0));
    }

    @Test
    void aConditionThatDoesNotFitTheRegisterSaysWhich() {
        Binder binder = new Binder(Generate.REGISTER, Reading.at(Instant.EPOCH, ZoneId.of("UTC")), Viewer.NOBODY);
        assertThatThrownBy(() -> binder.bind(all(A)))
                .isInstanceOf(Binder.Unfit.class)
                .hasMessageContaining("Things has no field “a”");
        assertThatThrownBy(() -> binder.bind(Condition.Criterion.of(
                        "title",
                        new deftlens.core.condition.Test.Compare(
                                deftlens.core.condition.Test.Order.MORE, Operand.Number.of(1)))))
                .isInstanceOf(Binder.Unfit.class)
                .hasMessageContaining("Title is a text field");
    }

    @Test
    void aViewerOfWhomNothingIsKnownIsInNothingOfTheirs() {
        Binder binder = new Binder(Generate.REGISTER, Reading.at(Instant.EPOCH, ZoneId.of("UTC")), Viewer.NOBODY);
        assertThat(binder.bind(Condition.Criterion.of(
                        "site", new deftlens.core.condition.Test.Is(new Operand.Viewer("site"), false))))
                .isEqualTo(new Bound.Constant(false));
    }

    @Test
    void namesOfFieldsAreFoundByKeyOrLabelWhateverTheirCase() {
        assertThat(Generate.REGISTER.named("REPORTED AT")).isEqualTo(Generate.REGISTER.field("reported_at"));
        assertThat(Generate.REGISTER.named("Code")).isPresent();
        assertThat(Generate.REGISTER.field("Code")).isEmpty();
        Field status = Generate.REGISTER.field("status").orElseThrow();
        assertThat(status.option("in HAND")).contains(Option.of("In hand"));
        assertRefused(() -> new Register(
                "r",
                "R",
                "r",
                "id",
                List.of(Field.of("a", "Same", FieldType.TEXT), Field.of("same", "Other", FieldType.TEXT))));
    }

    private static void assertRefused(org.assertj.core.api.ThrowableAssert.ThrowingCallable make) {
        assertThatThrownBy(make)
                .isInstanceOf(IllegalArgumentException.class)
                .message()
                .isNotBlank();
    }
}
