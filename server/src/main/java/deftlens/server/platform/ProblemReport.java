package deftlens.server.platform;

import java.io.IOException;
import java.io.Writer;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.core.StandardHost;
import org.apache.catalina.valves.ErrorReportValve;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.tomcat.TomcatWebServerFactory;
import org.springframework.boot.web.server.WebServerFactoryCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.http.MediaType;

/** What is answered to a request that is refused before it reaches any of our own code: a problem, as everywhere. */
public final class ProblemReport extends ErrorReportValve {

    private static final Logger LOG = LoggerFactory.getLogger(ProblemReport.class);

    @Override
    protected void report(Request request, Response response, Throwable cause) {
        if (response.getStatus() < 400 || response.getContentWritten() > 0 || !response.setErrorReported()) {
            return;
        }
        boolean ours = response.getStatus() >= 500;
        if (ours) {
            LOG.error("a request failed outside of our own calls", cause);
        }
        response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
        response.setCharacterEncoding("UTF-8");
        try {
            Writer writer = response.getReporter();
            if (writer != null) {
                writer.write(
                        ours
                                ? "{\"status\":%d,\"title\":\"Internal Server Error\",\"code\":\"our-mistake\",\"detail\":\"Something went wrong on our side. It has been logged; trying again may help.\"}"
                                        .formatted(response.getStatus())
                                : "{\"status\":%d,\"title\":\"Bad Request\",\"code\":\"bad-request\",\"detail\":\"The request is not in the form that HTTP has for it. Look at its address and headers.\"}"
                                        .formatted(response.getStatus()));
                response.finishResponse();
            }
        } catch (IOException e) {
            LOG.debug("whoever asked is gone", e);
        }
    }

    /** Puts the report in the place of the web server's own page. */
    @Configuration
    static class Settings {
        @Bean
        WebServerFactoryCustomizer<TomcatWebServerFactory> problemReports() {
            return factory -> factory.addContextCustomizers(context ->
                    ((StandardHost) context.getParent()).setErrorReportValveClass(ProblemReport.class.getName()));
        }
    }
}
