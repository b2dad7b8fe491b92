package deftlens.demo;

import deftlens.server.registers.RegisterDefinition;
import java.util.function.Consumer;

/** A register of the demo world with its records. The same seed and day give the same records. */
interface DemoRegister {

    /** The register. */
    RegisterDefinition register();

    /** Hands out the records, values in the order of the register's stored fields; {@code null} is empty. */
    void each(Consumer<Object[]> row);
}
