package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import org.junit.jupiter.api.Test;

class PastedTest {

    @Test
    void linesCommasSemicolonsAndTabsPartValues() {
        assertThat(Pasted.split(" D-1\r\nD-2,D-3 ;\tD-4\n\n;"))
                .isEqualTo(new Pasted(List.of("D-1", "D-2", "D-3", "D-4"), 0));
        assertThat(Pasted.split("a\nA\nb\na")).isEqualTo(new Pasted(List.of("a", "b"), 2));
        assertThat(Pasted.split(" \n,;\t").values()).isEmpty();
    }

    @Test
    void spacesPartWhatCanOnlyBeIdentifiers() {
        assertThat(Pasted.split("D-17 D-18  D-19\nE-265848 E-1").values())
                .containsExactly("D-17", "D-18", "D-19", "E-265848", "E-1");
        assertThat(Pasted.split("00417 00418").values()).containsExactly("00417", "00418");
        assertThat(Pasted.split("Cooper's Basin\n12 March\n1 204\n1 204.50\nBerth 7")
                        .values())
                .containsExactly("Cooper's Basin", "12 March", "1 204", "1 204.50", "Berth 7");
    }

    @Test
    void quotesKeepWhatIsInsideThem() {
        assertThat(Pasted.split("\"Quay, north\"\n\"say \"\"ho\"\"\",x").values())
                .containsExactly("Quay, north", "say \"ho\"", "x");
        assertThat(Pasted.split("12\" pipe, 6\" pipe").values()).containsExactly("12\" pipe", "6\" pipe");
        assertThat(Pasted.split("\"never closed, b").values()).containsExactly("\"never closed", "b");
    }
}
