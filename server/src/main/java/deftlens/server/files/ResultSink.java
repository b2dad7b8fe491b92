package deftlens.server.files;

import deftlens.core.field.Field;
import deftlens.server.question.ResultRow;
import java.io.IOException;
import java.util.List;

/** Where the records of an answer go, one after the other, in their order; whatever becomes of them is the sink's business. */
public interface ResultSink extends AutoCloseable {

    /** The fields whose values it needs. */
    List<Field> fields();

    /** Takes a record in; it is not kept by whoever hands it over. */
    void row(ResultRow row) throws IOException;

    /** There are no more: what is begun is ended. Not called where the answer broke off. */
    @Override
    void close() throws IOException;
}
