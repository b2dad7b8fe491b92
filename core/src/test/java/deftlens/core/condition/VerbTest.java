package deftlens.core.condition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.core.Generate;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Period;
import java.util.EnumSet;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;

class VerbTest {

    private static final int ENOUGH = 20_000;

    @Test
    void everyCriterionIsItsVerbWithWhatFollowsIt() {
        Generate generate = new Generate(17);
        Set<Verb> seen = EnumSet.noneOf(Verb.class);
        Set<Class<?>> followed = new HashSet<>();
        for (int i = 0; i < ENOUGH; i++) {
            Condition.Criterion criterion = generate.criterion();
            Verb verb = Verb.of(criterion);
            Operands operands = Operands.of(criterion.test());
            assertThat(verb.accepts(operands)).as(Printer.criterion(criterion)).isTrue();
            assertThat(verb.criterion(criterion.field(), operands)).isEqualTo(criterion);
            seen.add(verb);
            followed.add(operands.getClass());
        }
        // What is asked of other records is drawn where there are some, in RelatedTest.
        assertThat(seen).isEqualTo(EnumSet.complementOf(EnumSet.of(Verb.IN_RECORDS, Verb.NOT_IN_RECORDS)));
        followed.add(Operands.Others.class);
        assertThat(followed).isEqualTo(Set.of(Operands.class.getPermittedSubclasses()));
    }

    @Test
    void everyCriterionThatIsReadFitsItsFieldUnderItsVerb() {
        Generate generate = new Generate(18);
        for (int i = 0; i < ENOUGH; i++) {
            Condition.Criterion criterion = generate.criterion();
            Field field = Generate.REGISTER.field(criterion.field()).orElseThrow();
            assertThat(Fit.allows(Generate.REGISTER, field, criterion.test()))
                    .as(Printer.criterion(criterion))
                    .isTrue();
            // The words of a number's test are its sign, also where the number is yet to be asked for.
            assertThat(Verb.of(criterion.test(), field.type()).orElseThrow().fits(field.type()))
                    .isTrue();
            assertThat(new Reader(Generate.REGISTER, Generate.ATTRIBUTES).read(Printer.criterion(criterion)))
                    .isEqualTo(criterion);
        }
    }

    @Test
    void wordsNameOneTestOfAType() {
        for (FieldType type : FieldType.values()) {
            assertThat(Verb.of(type).stream().map(Verb::words)).as(type.label()).doesNotHaveDuplicates();
            assertThat(Verb.of(type).stream().filter(v -> v.isOffered(type)).map(Verb::label))
                    .as(type.label())
                    .isNotEmpty()
                    .doesNotHaveDuplicates();
        }
        assertThat(Verb.named("before", FieldType.TIME)).contains(Verb.BEFORE_TIME);
        assertThat(Verb.named("before", FieldType.DATE)).contains(Verb.BEFORE);
        assertThat(Verb.named("before", FieldType.TEXT)).isEmpty();
        assertThat(Verb.named("between")).containsExactly(Verb.BETWEEN, Verb.BETWEEN_DATES, Verb.BETWEEN_TIMES);
        assertThat(Verb.named("beside")).isEmpty();
    }

    @Test
    void oppositesAreEachOthers() {
        for (Verb verb : Verb.values()) {
            verb.opposite().ifPresent(opposite -> {
                assertThat(opposite.opposite()).contains(verb);
                assertThat(opposite.isNegated()).isNotEqualTo(verb.isNegated());
                assertThat(opposite.takes()).isEqualTo(verb.takes());
            });
            assertThat(verb.opposite()).isNotEqualTo(verb.isNegated() ? Optional.empty() : Optional.of(verb));
        }
        assertThat(Verb.IS_EMPTY.opposite()).contains(Verb.IS_NOT_EMPTY);
        assertThat(Verb.HAS_NONE_OF.opposite()).contains(Verb.HAS_ANY_OF);
        assertThat(Verb.HAS_ALL_OF.opposite()).isEmpty();
        assertThat(Verb.STARTS_WITH.opposite()).isEmpty();
    }

    @Test
    void anotherFieldStandsWhereOneValueCould() {
        assertThat(Verb.NOT_IN.relation()).contains(deftlens.core.condition.Test.Relation.ON);
        assertThat(Verb.BEFORE_TIME.relation()).contains(deftlens.core.condition.Test.Relation.BEFORE);
        assertThat(Verb.IS_IN.relation()).isEmpty();
        assertThat(Verb.OVERLAPS.relation()).isEmpty();
        for (var relation : deftlens.core.condition.Test.Relation.values()) {
            assertThat(EnumSet.allOf(Verb.class).stream()
                            .filter(v -> v.relation().filter(relation::equals).isPresent()))
                    .as(relation.words())
                    .isNotEmpty();
        }
    }

    @Test
    void otherFieldsAreOfTheSameKindAndMeanSomething() {
        assertThat(others("cost", Verb.AT_LEAST)).containsExactly("allowed");
        assertThat(others("due", Verb.BEFORE)).containsExactly("until", "reported_at", "closed_at");
        // Two moments are hardly ever the same.
        assertThat(others("reported_at", Verb.IN)).containsExactly("due", "until");
        assertThat(others("opens", Verb.BEFORE_TIME)).containsExactly("shuts");
        assertThat(others("assignee", Verb.IS)).containsExactly("owner");
        assertThat(others("title", Verb.CONTAINS)).isEmpty();
        assertThat(others("tags", Verb.HAS_ANY_OF)).isEmpty();
        // A status and a site have no value in common.
        assertThat(others("status", Verb.IS)).isEmpty();
    }

    @Test
    void theOtherFieldsAreThoseThatFit() {
        List<Field> fields = Generate.REGISTER.fields();
        // Of choices only those with a value in common.
        for (Field field :
                fields.stream().filter(f -> f.type() != FieldType.CHOICE).toList()) {
            for (Verb verb : Verb.of(Generate.REGISTER, field)) {
                List<String> fitting = verb.relation().isEmpty()
                        ? List.of()
                        : fields.stream()
                                .filter(other -> Fit.allows(
                                        Generate.REGISTER,
                                        field,
                                        verb.test(new Operands.OtherField(other.key(), Optional.empty(), false))))
                                .map(Field::key)
                                .toList();
                assertThat(others(field.key(), verb))
                        .as(field.key() + " " + verb.words())
                        .isEqualTo(fitting);
            }
        }
    }

    private static List<String> others(String key, Verb verb) {
        Field field = Generate.REGISTER.field(key).orElseThrow();
        return Fit.others(Generate.REGISTER, field, verb).stream()
                .map(Field::key)
                .toList();
    }

    @Test
    void everyTypeBeginsWithATestThatIsOffered() {
        for (FieldType type : FieldType.values()) {
            assertThat(Verb.first(type).isOffered(type)).as(type.label()).isTrue();
        }
    }

    @Test
    void windowsAreSaidAsStatementsSayThem() {
        assertThat(Verb.NOT_IN.phrase()).isEqualTo("is not in");
        assertThat(Verb.WITHIN.phrase()).isEqualTo("lies within");
        assertThat(Verb.STARTS_IN.phrase()).isEqualTo("starts in");
    }

    @Test
    void whatFollowsOtherWordsIsRefused() {
        assertThatThrownBy(() -> Verb.IS_IN.test(new Operands.Nothing()))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("is in");
        assertThatThrownBy(() -> Verb.CONTAINS.test(new Operands.OtherField("due", Optional.empty(), false)))
                .isInstanceOf(IllegalArgumentException.class);
        assertThat(Verb.BEFORE_TIME.accepts(new Operands.Window(new Period.NearDay(0))))
                .isFalse();
    }
}
