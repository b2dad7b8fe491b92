package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Set;
import java.util.SplittableRandom;
import java.util.TreeSet;
import org.junit.jupiter.api.Test;

class DistinctTest {

    @Test
    void textsAreToldApartOrNot() {
        for (long seed = 0; seed < 40; seed++) {
            SplittableRandom random = new SplittableRandom(seed);
            int count = 1 + random.nextInt(9_000);
            Set<String> seen = new TreeSet<>();
            Distinct distinct = new Distinct();
            boolean all = true;
            for (int i = 0; i < count; i++) {
                String text = random.nextInt(20_000) == 0 && i > 0 ? "T-0" : "T-" + i;
                all &= seen.add(text);
                distinct.add(text);
            }
            assertThat(distinct.areAll()).as("seed %d", seed).isEqualTo(all);
        }
    }
}
