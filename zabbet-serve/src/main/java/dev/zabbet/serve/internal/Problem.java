package dev.zabbet.serve.internal;

import dev.zabbet.files.internal.JsonTree;
import java.util.LinkedHashMap;
import java.util.Map;

/**
 * Why a request is refused, as RFC 9457 writes it down; the type is {@code about:blank}, so that status, title and detail say all.
 */
final class Problem extends RuntimeException {
    private static final long serialVersionUID = 1L;
    static final String MEDIA_TYPE = "application/problem+json";

    private final int status;
    private final String title;
    private final String detail;

    Problem(int status, String title, String detail) {
        super(detail, null, false, false);
        this.status = status;
        this.title = title;
        this.detail = detail;
    }

    int status() {
        return status;
    }

    String json() {
        Map<String, Object> members = new LinkedHashMap<>();
        members.put("type", "about:blank");
        members.put("title", title);
        members.put("status", status);
        members.put("detail", detail);
        return JsonTree.write(members) + "\n";
    }
}
