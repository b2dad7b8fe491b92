package deftlens.demo;

import deftlens.server.registers.RegisterDefinition;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;

/** A register of the demo world with its records. The same seed and day give the same records. */
interface DemoRegister {

    /** The register. */
    RegisterDefinition register();

    /** The fields that sums are kept by, and the numbers that are added up; none where no sums are kept. */
    default Optional<SumsOf> sums() {
        return Optional.empty();
    }

    /** Keys of fields that tell sums apart, and of numbers that are added up. */
    record SumsOf(List<String> keys, List<String> amounts) {}

    /** Hands out the records, values in the order of the register's stored fields; {@code null} is empty. */
    void each(Consumer<Object[]> row);
}
