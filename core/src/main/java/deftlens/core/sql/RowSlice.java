package deftlens.core.sql;

/** A part of the matching records: a stretch of their order, or some picked at random. It never changes which records match. */
public sealed interface RowSlice {

    /** The furthest place that a stretch may reach. */
    long FURTHEST = 1_000_000;

    /** The most records of a sample. */
    int LARGEST = 100_000;

    /**
     * The records from one place of the order to another, both counted from 1 and both belonging.
     *
     * @param to at most {@link #FURTHEST}
     */
    record Stretch(long from, long to) implements RowSlice {
        public Stretch {
            if (from < 1 || to < from || to > FURTHEST) {
                throw new IllegalArgumentException(
                        "rows are counted from 1 and go up to row " + FURTHEST + ", the first before the last");
            }
        }
    }

    /**
     * Records picked at random by their number, the same ones for the same seed as long as the records stay the same.
     *
     * @param size how many at most, up to {@link #LARGEST}
     */
    record Sample(int size, long seed) implements RowSlice {
        public Sample {
            if (size < 1 || size > LARGEST) {
                throw new IllegalArgumentException("a sample has from 1 to " + LARGEST + " records");
            }
        }
    }
}
