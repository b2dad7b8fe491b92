package deftlens.server.files;

import deftlens.core.sql.Groups;
import deftlens.server.lanes.Spool;
import deftlens.server.platform.Problem;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.Question;
import deftlens.server.question.Shape;
import deftlens.server.rows.RowsService;
import deftlens.server.totals.TotalsService;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Service;

/** Sends results as files, in each {@link ResultFormat} there is: streamed from the database, none of it kept in memory. */
@Service
public class ResultFiles {

    private static final String USUAL = "csv";

    private final RowsService rows;
    private final GroupLevels levels;
    private final TotalsService totals;
    private final Spool spool;
    private final List<ResultFormat> formats;

    ResultFiles(RowsService rows, GroupLevels levels, TotalsService totals, Spool spool, List<ResultFormat> formats) {
        this.rows = rows;
        this.levels = levels;
        this.totals = totals;
        this.spool = spool;
        this.formats = formats;
    }

    /** The format of a name; CSV where none is asked for. */
    public ResultFormat format(Optional<String> extension) {
        String wanted = extension.orElse(USUAL);
        return formats.stream()
                .filter(f -> f.extension().equals(wanted))
                .findFirst()
                .orElseThrow(() -> Problem.badRequest(
                        "unknown-format",
                        "There are no files of the format “" + wanted + "”; there are "
                                + formats.stream().map(ResultFormat::extension).collect(Collectors.joining(", "))
                                + "."));
    }

    /**
     * Answers a request with a file.
     *
     * @param name what the file is called, without its ending
     */
    public void send(
            HttpServletRequest request,
            HttpServletResponse response,
            String name,
            Question question,
            ResultFormat format,
            FileForm form)
            throws IOException {
        ResultFormat.Result result = new ResultFormat.Result(
                question, levels.levels(question, question.shape().groups()), form);
        spool.send(
                question.who(),
                request,
                response,
                () -> {
                    response.setContentType(format.mediaType());
                    response.setHeader(
                            HttpHeaders.CONTENT_DISPOSITION,
                            ContentDisposition.attachment()
                                    .filename(fileName(name) + "." + format.extension(), StandardCharsets.UTF_8)
                                    .build()
                                    .toString());
                },
                out -> write(result, format, out));
    }

    private void write(ResultFormat.Result result, ResultFormat format, OutputStream out) throws IOException {
        Optional<Shape.Totals> asTotals = result.question().shape().totals();
        if (asTotals.isPresent()) {
            Optional<Groups.Level> across = asTotals.get()
                    .across()
                    .map(a -> levels.levels(result.question(), List.of(a)).getFirst());
            format.totals(result, across, totals.totals(result.question()), out);
            return;
        }
        ResultSink sink = format.open(result, out);
        rows.stream(result.question(), sink.fields(), row -> {
            try {
                sink.row(row);
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        });
        sink.close();
    }

    private static String fileName(String name) {
        String plain = name.replaceAll("[^\\p{L}\\p{N} ._-]", "").strip();
        return Optional.of(plain).filter(p -> !p.isEmpty()).orElse("records");
    }
}
