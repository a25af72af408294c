package dev.zabbet.serve.internal;

import java.nio.charset.Charset;
import java.util.List;
import org.eclipse.jetty.http.HttpHeader;
import org.eclipse.jetty.http.HttpStatus;
import org.eclipse.jetty.io.Content;
import org.eclipse.jetty.server.Request;
import org.eclipse.jetty.server.Response;
import org.eclipse.jetty.server.handler.ErrorHandler;
import org.eclipse.jetty.util.Callback;
import org.jspecify.annotations.Nullable;

/** Answers requests that cannot be read, or are too large in their heads, as all others that are refused. */
public final class ProblemHandler extends ErrorHandler {
    @Override
    protected boolean generateAcceptableResponse(
            Request request,
            Response response,
            Callback callback,
            String contentType,
            List<Charset> charsets,
            int code,
            @Nullable String message,
            @Nullable Throwable cause) {
        String title = HttpStatus.getMessage(code);
        write(
                response,
                new Problem(code, title, "The request cannot be read: " + (message == null ? title : message) + "."),
                callback);
        return true;
    }

    static void write(Response response, Problem problem, Callback callback) {
        response.setStatus(problem.status());
        response.getHeaders().put(HttpHeader.CONTENT_TYPE, Problem.MEDIA_TYPE);
        response.getHeaders().put(HttpHeader.CACHE_CONTROL, "no-store");
        Content.Sink.write(response, true, problem.json(), callback);
    }
}
