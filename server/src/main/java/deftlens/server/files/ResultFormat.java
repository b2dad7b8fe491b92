package deftlens.server.files;

import deftlens.core.sql.Groups;
import deftlens.server.question.Question;
import deftlens.server.totals.TotalsAnswer;
import java.io.IOException;
import java.io.OutputStream;
import java.util.List;
import java.util.Optional;

/** A form that files of results have. A new one is one class: a bean that opens a sink. */
public interface ResultFormat {

    /** What files of it end with, and what the API calls it: {@code csv}. */
    String extension();

    /** Its media type (RFC 6838), with parameters. */
    String mediaType();

    /**
     * What a file is of.
     *
     * @param levels what the records are grouped by, the outermost first
     */
    record Result(Question question, List<Groups.Level> levels, FileForm form) {}

    /** Begins a file; nothing is written before the first record, or the end. */
    ResultSink open(Result result, OutputStream out) throws IOException;

    /**
     * Writes totals, which are the answer where the question's shape is read as such; see {@link TotalsSheet} for what becomes of the rows.
     *
     * @param across the level of the columns
     */
    void totals(Result result, Optional<Groups.Level> across, TotalsAnswer answer, OutputStream out) throws IOException;
}
