package deftlens.server.platform;

import com.zaxxer.hikari.SQLExceptionOverride;
import java.sql.SQLException;
import org.postgresql.util.PSQLException;

/**
 * Tells the pool that a connection is whole when our own database reports that it cannot reach a linked server: that comes
 * under the same codes as a connection of our own that broke.
 */
public final class KeptConnections implements SQLExceptionOverride {

    @java.lang.Override
    public Override adjudicate(SQLException e) {
        return e instanceof PSQLException sql
                        && sql.getServerErrorMessage() != null
                        && FailureElsewhere.behind(e).isPresent()
                ? Override.DO_NOT_EVICT
                : Override.CONTINUE_EVICT;
    }
}
