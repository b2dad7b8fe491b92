package deftlens.server.platform;

import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.RequestDispatcher;
import jakarta.servlet.http.HttpServletRequest;
import org.springframework.boot.webmvc.error.ErrorController;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What is answered where something goes wrong before or behind our own calls; asked for by itself, it is not there. */
@Hidden
@RestController
@Admits(strangers = true, beforePasswordChange = true, readers = true)
class ErrorPage implements ErrorController {

    @RequestMapping("/error")
    ResponseEntity<ProblemDetail> error(HttpServletRequest request) {
        Object code = request.getAttribute(RequestDispatcher.ERROR_STATUS_CODE);
        HttpStatus status = code instanceof Integer number ? HttpStatus.resolve(number) : null;
        Problem problem = status == null || status == HttpStatus.NOT_FOUND
                ? Problem.notFound("This page")
                : status.is4xxClientError()
                        ? new Problem(
                                status, "bad-request", "The request cannot be read. Look at its form and try again.")
                        : new Problem(
                                HttpStatus.INTERNAL_SERVER_ERROR,
                                "our-mistake",
                                "Something went wrong on our side. It has been logged; trying again may help.");
        return ResponseEntity.status(problem.detail().getStatus())
                .contentType(MediaType.APPLICATION_PROBLEM_JSON)
                .body(problem.detail());
    }
}
