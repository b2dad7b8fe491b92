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

        /**
         * Is told of a cell of the row that comes next: it holds a formula, and the file has no value for it.
         *
         * @param column its place, from 0
         */
        default void formulaWithoutValue(long line, int column) {}

        /**
         * Is told how far the reading is.
         *
         * @param position from 0 to {@link Tabular#size}
         */
        default void at(long position) {}
    }

    /** How much there is to read, in whatever {@link Each#at} counts: bytes, or rows. */
    long size() throws IOException;

    /** Hands out every row in order, the head included, until there are no more or nobody wants more. */
    void each(Each each) throws IOException;
}
