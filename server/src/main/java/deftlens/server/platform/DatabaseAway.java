package deftlens.server.platform;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.time.Duration;
import java.util.Optional;
import java.util.Set;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;
import tools.jackson.databind.ObjectMapper;

/**
 * Answers promptly while our own database cannot be reached, wherever in a request that shows: also where a session is looked
 * up, before any call of ours. It is well again by itself when the database is.
 */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE)
public class DatabaseAway extends OncePerRequestFilter {

    private static final Logger LOG = LoggerFactory.getLogger(DatabaseAway.class);
    private static final Duration AGAIN_AFTER = Duration.ofSeconds(3);

    /** PostgreSQL's SQLSTATEs of a server that shuts down, starts up or has no connection left. */
    private static final Set<String> NOT_NOW = Set.of("57P01", "57P02", "57P03", "53300");

    private final ObjectMapper json;

    DatabaseAway(ObjectMapper json) {
        this.json = json;
    }

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        try {
            chain.doFilter(request, response);
        } catch (RuntimeException | ServletException e) {
            Optional<Problem> problem = behind(e);
            if (problem.isEmpty() || response.isCommitted()) {
                throw e;
            }
            LOG.warn(
                    "{} {}: {}",
                    request.getMethod(),
                    request.getRequestURI(),
                    problem.get().code());
            response.reset();
            response.setStatus(HttpStatus.SERVICE_UNAVAILABLE.value());
            problem.get().headers().forEach((name, values) -> response.setHeader(name, values.get(0)));
            response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
            response.setCharacterEncoding("UTF-8");
            response.getWriter().write(json.writeValueAsString(problem.get().detail()));
        }
    }

    /** What is said where our own database, or a connection to it, is what was missing. */
    static Optional<Problem> behind(Throwable e) {
        if (FailureElsewhere.behind(e).isPresent()) {
            return Optional.empty();
        }
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLTransientConnectionException) {
                // The pool had no connection to give: because all are in use, or, with a cause, because none can be
                // made.
                return Optional.of(cause.getCause() == null ? busy() : away());
            }
            if (cause instanceof SQLException sql && isAway(sql)) {
                return Optional.of(away());
            }
        }
        return Optional.empty();
    }

    private static Problem busy() {
        return new Problem(
                        HttpStatus.SERVICE_UNAVAILABLE,
                        "busy",
                        "Too much is asked of the database just now. Try again in a moment.")
                .retryAfter(AGAIN_AFTER);
    }

    private static Problem away() {
        return new Problem(
                        HttpStatus.SERVICE_UNAVAILABLE,
                        "database-away",
                        "The database cannot be reached just now. Nothing of yours was written; it works again as soon as the database does.")
                .retryAfter(AGAIN_AFTER);
    }

    private static boolean isAway(SQLException e) {
        // A connection that broke is closed by the pool, which gives no state for it.
        return e.getSQLState() == null
                ? "Connection is closed".equals(e.getMessage())
                : e.getSQLState().startsWith("08") || NOT_NOW.contains(e.getSQLState());
    }
}
