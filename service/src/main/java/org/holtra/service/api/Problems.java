package org.holtra.service.api;

import org.holtra.service.journal.JournalUnavailable;
import org.holtra.service.spool.Spool;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.HttpStatusCode;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.http.converter.HttpMessageNotReadableException;
import org.springframework.transaction.TransactionException;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.context.request.WebRequest;
import org.springframework.web.servlet.mvc.method.annotation.ResponseEntityExceptionHandler;

/** Every error of the API as problem details. */
@RestControllerAdvice
class Problems extends ResponseEntityExceptionHandler {

    private static final Logger log = LoggerFactory.getLogger(Problems.class);

    private final Spool spool;

    Problems(Spool spool) {
        this.spool = spool;
    }

    @ExceptionHandler(Problem.class)
    ResponseEntity<ProblemDetail> problem(Problem problem) {
        ProblemDetail detail = ProblemDetail.forStatusAndDetail(problem.status(), problem.getMessage());
        detail.setTitle(problem.title());
        problem.more().forEach(detail::setProperty);
        return ResponseEntity.status(problem.status()).body(detail);
    }

    @Override
    protected ResponseEntity<Object> handleHttpMessageNotReadable(
            HttpMessageNotReadableException e, HttpHeaders headers, HttpStatusCode status, WebRequest request) {
        ResponseEntity<ProblemDetail> answer = problem(UnreadBody.problem(e.getCause()));
        return ResponseEntity.status(answer.getStatusCode()).body(answer.getBody());
    }

    @ExceptionHandler({DataAccessException.class, TransactionException.class, JournalUnavailable.class})
    ResponseEntity<ProblemDetail> databaseAway(RuntimeException e) {
        if (JournalUnavailable.isOfTheData(e)) {
            return notUnderstood(new IllegalArgumentException(
                    "A value of the request is none that can be stored or looked for, such as a text with a zero byte or a"
                            + " time beyond the calendar."));
        }
        log.warn("A request could not be served", e);
        ProblemDetail detail = ProblemDetail.forStatusAndDetail(
                HttpStatus.SERVICE_UNAVAILABLE,
                "The database does not answer as it should. " + meanwhile(spool.state()) + " Try again in a moment.");
        detail.setTitle("Not available now");
        return ResponseEntity.status(HttpStatus.SERVICE_UNAVAILABLE)
                .header(HttpHeaders.RETRY_AFTER, "5")
                .body(detail);
    }

    /** What becomes of messages that come while the database is away. */
    private static String meanwhile(Spool.State state) {
        if (!state.on()) {
            return "Senders are told to come again.";
        }
        if (state.trouble() != null) {
            return "Senders are told to come again, since " + state.trouble() + ".";
        }
        return "Messages are taken on: " + state.messages() + " wait in this node's spool, which is "
                + (100 * state.bytes() / Math.max(1, state.limit())) + " per cent full. They go on by themselves.";
    }

    @ExceptionHandler(IllegalArgumentException.class)
    ResponseEntity<ProblemDetail> notUnderstood(IllegalArgumentException e) {
        ProblemDetail detail = ProblemDetail.forStatusAndDetail(HttpStatus.BAD_REQUEST, String.valueOf(e.getMessage()));
        detail.setTitle("Not understood");
        return ResponseEntity.badRequest().body(detail);
    }
}
