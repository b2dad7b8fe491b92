package deftlens.server.people;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.server.platform.Problem;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class PeopleFileTest {

    private static final List<ViewerAttribute> KNOWN = List.of(
            new ViewerAttribute("site", "Site", "", 0), new ViewerAttribute("cost_centre", "Centre of costs", "", 1));

    private static PeopleFile read(String text) {
        return PeopleFile.read(text, KNOWN);
    }

    @Test
    void columnsAreFoundByKeyOrLabelInAnyOrderAndCase() {
        PeopleFile file = read("Centre of costs,SITE,Team,NAME\nC1; C2,North Quay,\"Day; Night\", Eve.One \n");
        assertThat(file.refused()).isEmpty();
        PeopleFile.Line line = file.lines().getFirst();
        assertThat(line.name()).isEqualTo("eve.one");
        assertThat(line.teams()).contains(List.of("Day", "Night"));
        assertThat(line.values()).isEqualTo(Map.of("cost_centre", List.of("C1", "C2"), "site", List.of("North Quay")));
        assertThat(line.fullName()).isEmpty();
        assertThat(line.role()).isEmpty();
    }

    @Test
    void aColumnThatIsNotThereIsLeftAloneAndAnEmptyCellEmpties() {
        PeopleFile.Line without = read("name\na\n").lines().getFirst();
        assertThat(without.teams()).isEmpty();
        assertThat(without.values()).isEmpty();
        PeopleFile.Line empty = read("name,teams,site\na,,\n").lines().getFirst();
        assertThat(empty.teams()).contains(List.of());
        assertThat(empty.values()).isEqualTo(Map.of("site", List.of()));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "name,full name\r\neve,\"Eve \"\"E\"\" One, Esq.\"\r\n",
                "\uFEFFname,full name\neve,\"Eve \"\"E\"\" One, Esq.\"",
                "name;full name\neve;\"Eve \"\"E\"\" One, Esq.\"\n\n"
            })
    void linesEndAsTheyLikeAndQuotesAreRead(String text) {
        assertThat(read(text).lines())
                .extracting(PeopleFile.Line::fullName)
                .containsExactly(Optional.of("Eve \"E\" One, Esq."));
    }

    @Test
    void linesThatDoNotFitAreNamedAndTheOthersAreRead() {
        PeopleFile file = read("name,role\na,member\nb,king\nc,AUDITOR,more\nd,Administrator\n");
        assertThat(file.lines()).extracting(PeopleFile.Line::name).containsExactly("a", "d");
        assertThat(file.lines())
                .extracting(PeopleFile.Line::role)
                .containsExactly(Optional.of(Role.MEMBER), Optional.of(Role.ADMINISTRATOR));
        assertThat(file.refused())
                .containsExactly(
                        new PeopleImport.RefusedLine(3, "“king” is no role; write administrator, member or auditor."),
                        new PeopleImport.RefusedLine(4, "It has 3 cells; the heading has 2."));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"", "\n\n", "full name\nX\n", "name,name\na,b\n", "name,grade\na,1\n", "name\n\"never closed\n"})
    void whatIsNoFileOfPeopleIsRefusedWithASentence(String text) {
        assertThatThrownBy(() -> read(text))
                .isInstanceOfSatisfying(
                        Problem.class, p -> assertThat(p.getMessage()).matches("(?s)[“A-Z].{20,}"));
    }
}
