package deftlens.server.platform;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.core.statement.StatementError;
import deftlens.core.time.Unanswered;
import jakarta.persistence.OptimisticLockException;
import jakarta.servlet.http.HttpServletRequest;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataIntegrityViolationException;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.HttpStatusCode;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.http.converter.HttpMessageNotReadableException;
import org.springframework.orm.ObjectOptimisticLockingFailureException;
import org.springframework.security.web.firewall.RequestRejectedException;
import org.springframework.web.bind.MethodArgumentNotValidException;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.context.request.ServletWebRequest;
import org.springframework.web.context.request.WebRequest;
import org.springframework.web.method.annotation.HandlerMethodValidationException;
import org.springframework.web.method.annotation.MethodArgumentTypeMismatchException;
import org.springframework.web.servlet.mvc.method.annotation.ResponseEntityExceptionHandler;
import org.springframework.web.servlet.resource.NoResourceFoundException;
import org.springframework.web.util.DisconnectedClientHelper;
import tools.jackson.core.exc.StreamReadException;
import tools.jackson.databind.DatabindException;
import tools.jackson.databind.exc.UnrecognizedPropertyException;

/** Turns everything that goes wrong into problem details; only our own mistakes become a 500. */
@RestControllerAdvice
class ProblemAdvice extends ResponseEntityExceptionHandler {

    private static final Logger LOG = LoggerFactory.getLogger(ProblemAdvice.class);

    /** SQLSTATEs of what only happens when two write at once: unique and foreign key violations. */
    private static final Set<String> RACES = Set.of("23505", "23503");

    private final WebPages pages;

    ProblemAdvice(WebPages pages) {
        this.pages = pages;
    }

    @Override
    protected ResponseEntity<Object> handleNoResourceFoundException(
            NoResourceFoundException e, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
        return pages.nothingHere(((ServletWebRequest) request).getRequest())
                .orElseGet(() -> super.handleNoResourceFoundException(e, headers, status, request));
    }

    @ExceptionHandler(Problem.class)
    ResponseEntity<ProblemDetail> problem(Problem problem) {
        ProblemDetail detail = problem.detail();
        return ResponseEntity.status(detail.getStatus())
                .headers(problem.headers())
                .body(detail);
    }

    @ExceptionHandler(StatementError.class)
    ResponseEntity<ProblemDetail> statement(StatementError error) {
        return respond(Problem.unprocessable("statement-unreadable", error.getMessage())
                .with("line", error.place().line())
                .with("column", error.place().column())
                .with("offset", error.place().offset())
                .with("length", error.place().length())
                .with("found", error.found())
                .with("suggestions", error.suggestions())
                .detail());
    }

    @ExceptionHandler({OptimisticLockException.class, ObjectOptimisticLockingFailureException.class})
    ResponseEntity<ProblemDetail> changedMeanwhile(Exception e) {
        return respond(new Problem(
                        HttpStatus.CONFLICT,
                        "changed-meanwhile",
                        "Somebody else changed this at the same moment. Nothing of yours was written; look at theirs and try again.")
                .detail());
    }

    /** Two requests that wrote the same thing in one instant: the database lets one of them through. */
    @ExceptionHandler(DataIntegrityViolationException.class)
    ResponseEntity<ProblemDetail> takenMeanwhile(DataIntegrityViolationException e, HttpServletRequest request) {
        boolean raced = e.getMostSpecificCause() instanceof SQLException cause && RACES.contains(cause.getSQLState());
        if (!raced) {
            return unexpected(e, request);
        }
        LOG.warn("the database refused a change: {}", e.getMostSpecificCause().getMessage());
        return respond(new Problem(
                        HttpStatus.CONFLICT,
                        "taken-meanwhile",
                        "Somebody else wrote the same at the same moment, or removed what this needs. Nothing of yours was written; look at it anew and try again.")
                .detail());
    }

    @ExceptionHandler(Unanswered.class)
    ResponseEntity<ProblemDetail> unanswered(Unanswered e) {
        return respond(Problem.unprocessable("ask-open", e.getMessage() + ".")
                .with("ask", e.label())
                .detail());
    }

    @ExceptionHandler(MethodArgumentTypeMismatchException.class)
    ResponseEntity<ProblemDetail> mismatch(MethodArgumentTypeMismatchException e) {
        return respond(Problem.badRequest(
                        "bad-parameter", "“" + e.getValue() + "” does not fit the parameter " + e.getName() + ".")
                .detail());
    }

    /** Everything else; nothing is answered to, or logged about, whoever hung up while the answer was being sent. */
    @ExceptionHandler(Exception.class)
    ResponseEntity<ProblemDetail> unexpected(Exception e, HttpServletRequest request) {
        if (DisconnectedClientHelper.isClientDisconnectedException(e)) {
            LOG.debug("{} {}: the client hung up", request.getMethod(), request.getRequestURI());
            return null;
        }
        if (StoppedQuery.isBehind(e)) {
            return respond(new Problem(
                            HttpStatus.SERVICE_UNAVAILABLE,
                            "took-too-long",
                            "The question took too long and was stopped. Narrow it with a date window or another criterion.")
                    .detail());
        }
        Optional<String> elsewhere = FailureElsewhere.behind(e);
        if (elsewhere.isPresent()) {
            LOG.warn(
                    "{} {}: a linked server failed: {}", request.getMethod(), request.getRequestURI(), elsewhere.get());
            return respond(new Problem(
                            HttpStatus.SERVICE_UNAVAILABLE,
                            "linked-server",
                            "These records are on another server, which cannot be read just now. It says: "
                                    + elsewhere.get())
                    .detail());
        }
        Optional<Problem> away = DatabaseAway.behind(e);
        if (away.isPresent()) {
            LOG.warn(
                    "{} {}: {}",
                    request.getMethod(),
                    request.getRequestURI(),
                    away.get().code());
            return problem(away.get());
        }
        Optional<ResponseEntity<ProblemDetail>> beyond = beyondTheDatabase(e);
        if (beyond.isPresent()) {
            LOG.info("{} {}: {}", request.getMethod(), request.getRequestURI(), e.getMessage());
            return beyond.get();
        }
        LOG.error("{} {} failed", request.getMethod(), request.getRequestURI(), e);
        return respond(new Problem(
                        HttpStatus.INTERNAL_SERVER_ERROR,
                        "our-mistake",
                        "Something went wrong on our side. It has been logged; trying again may help.")
                .detail());
    }

    /**
     * What PostgreSQL cannot take in: a value out of its range (SQLSTATE class 22), or more than it can work on at once (class
     * 54).
     */
    private static Optional<ResponseEntity<ProblemDetail>> beyondTheDatabase(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql && sql.getSQLState() != null) {
                if (sql.getSQLState().startsWith("22")) {
                    return Optional.of(respond(Problem.unprocessable(
                                    "out-of-range",
                                    "A value is beyond what can be stored or compared: a number too large, or a date too far away. Use a smaller one.")
                            .detail()));
                }
                if (sql.getSQLState().startsWith("54")) {
                    return Optional.of(respond(Problem.unprocessable(
                                    "too-much-at-once",
                                    "This is more than the database can work on at once. Ask for less.")
                            .detail()));
                }
            }
        }
        return Optional.empty();
    }

    /** A header that no request may have; the path has been looked at before. */
    @ExceptionHandler(RequestRejectedException.class)
    ResponseEntity<ProblemDetail> rejected(RequestRejectedException e) {
        return respond(
                Problem.badRequest("bad-request", "The request has a header or parameter in a form that is not taken.")
                        .detail());
    }

    @Override
    protected ResponseEntity<Object> handleHttpMessageNotReadable(
            HttpMessageNotReadableException e, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
        for (Throwable cause = e.getCause(); cause != null; cause = cause.getCause()) {
            if (cause instanceof Problem problem) {
                return handleExceptionInternal(e, problem.detail(), headers, status, request);
            }
        }
        String sentence = switch (e.getMostSpecificCause()) {
            case UnrecognizedPropertyException unknown ->
                "There is no member “" + unknown.getPropertyName() + "” here; known are " + members(unknown) + ".";
            case DatabindException bind ->
                "The member " + place(bind) + " does not have the form that is expected there.";
            case StreamReadException broken ->
                "The body is not JSON: line " + broken.getLocation().getLineNr() + ", column "
                        + broken.getLocation().getColumnNr() + " cannot be read.";
            default -> "The body of the request cannot be read. Send a JSON object.";
        };
        ProblemDetail detail = Problem.badRequest("unreadable-body", sentence).detail();
        return handleExceptionInternal(e, detail, headers, status, request);
    }

    /** The members there are, those of records whose members are the request's own too. */
    private static Collection<?> members(UnrecognizedPropertyException unknown) {
        Class<?> type = unknown.getReferringClass();
        return type != null && type.isRecord() ? members(type).toList() : unknown.getKnownPropertyIds();
    }

    private static Stream<String> members(Class<?> type) {
        return Arrays.stream(type.getRecordComponents())
                .flatMap(c -> c.getAccessor().isAnnotationPresent(JsonUnwrapped.class)
                        ? members(c.getType())
                        : Stream.of(c.getName()));
    }

    @Override
    protected ResponseEntity<Object> handleMethodArgumentNotValid(
            MethodArgumentNotValidException e, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
        return handleExceptionInternal(
                e,
                toMend(e.getBindingResult().getFieldErrors().stream()
                        .map(f -> new Unfit(f.getField(), f.getDefaultMessage()))),
                headers,
                status,
                request);
    }

    /** The same for what stands in the address. */
    @Override
    protected ResponseEntity<Object> handleHandlerMethodValidationException(
            HandlerMethodValidationException e, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
        return handleExceptionInternal(
                e,
                toMend(e.getParameterValidationResults().stream()
                        .flatMap(r -> r.getResolvableErrors().stream()
                                .map(error -> new Unfit(
                                        r.getMethodParameter().getParameterName(), error.getDefaultMessage())))),
                headers,
                status,
                request);
    }

    /** A value that breaks a bound, by its name in the request. */
    private record Unfit(String at, String why) {}

    private static ProblemDetail toMend(Stream<Unfit> all) {
        List<Unfit> unfit = all.distinct().toList();
        String words = unfit.stream().map(u -> u.at + " " + u.why).collect(Collectors.joining("; "));
        Problem problem = Problem.badRequest(
                "bad-value", "Please mend: " + (unfit.isEmpty() ? "a value does not fit" : words) + ".");
        return (unfit.isEmpty() ? problem : problem.at(unfit.getFirst().at)).detail();
    }

    /** What Spring itself refuses gets a code too. */
    @Override
    protected ResponseEntity<Object> handleExceptionInternal(
            Exception e, Object body, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
        ResponseEntity<Object> response = super.handleExceptionInternal(e, body, headers, status, request);
        if (response != null
                && response.getBody() instanceof ProblemDetail detail
                && (detail.getProperties() == null || !detail.getProperties().containsKey("code"))) {
            detail.setProperty("code", status.value() == 404 ? "not-found" : "bad-request");
        }
        return response;
    }

    private static String place(DatabindException e) {
        String path = e.getPath().stream()
                .map(r -> r.getPropertyName() == null ? String.valueOf(r.getIndex()) : r.getPropertyName())
                .collect(Collectors.joining("/", "/", ""));
        return "“" + path + "”";
    }

    private static ResponseEntity<ProblemDetail> respond(ProblemDetail detail) {
        return ResponseEntity.status(detail.getStatus()).body(detail);
    }
}
