package dev.zabbet.serve.internal;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import org.eclipse.jetty.http.HttpField;
import org.eclipse.jetty.http.HttpFields;
import org.eclipse.jetty.http.HttpHeader;
import org.eclipse.jetty.server.Request;

/**
 * Lets in whoever has the token and means this very server. A page of another origin is not let in even with the token, and a name
 * that was made to lead here (DNS rebinding) is no local host.
 */
public final class Gate {
    private static final Set<String> LOCAL = Set.of("127.0.0.1", "localhost", "[::1]");
    private static final String SCHEME = "Bearer ";

    private final byte[] token;

    public Gate(String token) {
        this.token = token.getBytes(StandardCharsets.UTF_8);
    }

    void check(Request request) {
        HttpFields headers = request.getHeaders();
        int port = Request.getLocalPort(request);
        requireLocal(headers.getValuesList(HttpHeader.HOST), port);
        String origin = headers.get(HttpHeader.ORIGIN);
        String site = headers.get("Sec-Fetch-Site");
        boolean elsewhere = site != null && !site.equals("same-origin") && !site.equals("none");
        if (origin != null || elsewhere) {
            throw new Problem(
                    403,
                    "Not from a page",
                    "The request comes from a page" + (origin == null ? "" : " of " + cut(origin))
                            + ". This server answers programs, not pages of a browser; ask it from the test.");
        }
        List<HttpField> given = headers.getFields(HttpHeader.AUTHORIZATION);
        boolean known = given.size() == 1
                && given.get(0).getValue() != null
                && given.get(0).getValue().startsWith(SCHEME)
                && MessageDigest.isEqual(
                        token,
                        given.get(0).getValue().substring(SCHEME.length()).getBytes(StandardCharsets.UTF_8));
        if (!known) {
            throw new Problem(
                    401,
                    "The token is missing or wrong",
                    "Send the header Authorization: Bearer TOKEN, with the token that the server printed when it was started,"
                            + " or that ZABBET_TOKEN holds.");
        }
    }

    private static void requireLocal(List<String> hosts, int port) {
        String host = hosts.size() == 1 ? hosts.get(0) : "";
        int colon = host.lastIndexOf(':');
        boolean local = colon > 0
                && LOCAL.contains(host.substring(0, colon).toLowerCase(Locale.ROOT))
                && host.substring(colon + 1).equals(String.valueOf(port));
        if (!local) {
            throw new Problem(
                    421,
                    "Not this server",
                    "The header Host names " + (host.isEmpty() ? "nothing" : cut(host))
                            + ", and this server is 127.0.0.1:" + port + " or localhost:" + port + ".");
        }
    }

    private static String cut(String text) {
        String plain = text.replaceAll("[^!-~]", "?");
        return plain.length() > 60 ? plain.substring(0, 60) + "…" : plain;
    }
}
