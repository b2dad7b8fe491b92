package deftlens.server.imports;

import java.io.IOException;
import java.util.List;

/** A file of rows and columns, read from its beginning to its end without holding it. */
interface Tabular {

    /** Takes one row. */
    @FunctionalInterface
    interface Each {
        /**
         * Takes a row.
         *
         * @param line where it stands in the file, from 1
         * @param cells its cells as text; empty for none
         * @return whether to go on
         */
        boolean row(long line, List<String> cells) throws IOException;
    }

    /** Hands out every row in order, the head included, until there are no more or nobody wants more. */
    void each(Each each) throws IOException;
}
