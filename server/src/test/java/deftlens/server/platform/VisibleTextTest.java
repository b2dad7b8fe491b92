package deftlens.server.platform;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class VisibleTextTest {

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                " ",
                "\t",
                "\u200b",
                "\u2060\ufeff",
                "\u200e\u202e",
                "\u00ad",
                "\u3164",
                "\u2800",
                "\u0301",
                "\u00a0"
            })
    void whatIsDrawnAsNothingIsNotSeen(String text) {
        assertThat(VisibleText.isVisible(text)).isFalse();
    }

    @ParameterizedTest
    @ValueSource(strings = {"a", "–", "Å", "مرحبا", "港", "e\u0301", "\u200bx", "€", "🚢", "."})
    void whatSomebodySeesIs(String text) {
        assertThat(VisibleText.isVisible(text)).isTrue();
    }
}
