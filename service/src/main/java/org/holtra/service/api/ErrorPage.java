package org.holtra.service.api;

import jakarta.servlet.RequestDispatcher;
import jakarta.servlet.http.HttpServletRequest;
import org.holtra.service.web.WebProblem;
import org.springframework.boot.webmvc.error.ErrorController;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What the web server itself refuses, as problem details, and nothing of its insides. */
@RestController
class ErrorPage implements ErrorController {

    @RequestMapping("/error")
    ResponseEntity<ProblemDetail> error(HttpServletRequest request) {
        HttpStatus status = request.getAttribute(RequestDispatcher.ERROR_STATUS_CODE) instanceof Integer code
                ? HttpStatus.resolve(code)
                : HttpStatus.NOT_FOUND;
        HttpStatus told = status == null ? HttpStatus.INTERNAL_SERVER_ERROR : status;
        ProblemDetail problem = ProblemDetail.forStatus(told);
        if (request.getAttribute(WebProblem.DETAIL) instanceof String detail) {
            problem.setDetail(detail);
        }
        return ResponseEntity.status(told)
                .contentType(MediaType.APPLICATION_PROBLEM_JSON)
                .body(problem);
    }
}
