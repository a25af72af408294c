package dev.zabbet.internal.text;

import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Takes secrets out of messages: user information of URLs (RFC 3986, 3.2.1) and values whose name looks like a secret.
 * Drivers put whole URLs into what they say.
 */
public final class Secrets {
    private static final Pattern USER_INFO = Pattern.compile("(?<=[A-Za-z0-9]:)//[^\\s\"'?;]*@");
    private static final Pattern USER_AND_PASSWORD =
            Pattern.compile("(?<![\\w/])[\\w.%+-]+:[^\\s@/\"']+@(?=[\\w.\\[])");
    private static final Pattern VALUE =
            Pattern.compile("(?i)\\b(\\w*(?:password|passwd|pwd|passphrase|secret|credentials?|api_?key|token)=)"
                    + "(\"[^\"]*\"|'[^']*'|[^\\s&;,\"')]+)");
    private static final String HIDDEN = "…";

    private Secrets() {}

    /** Returns a text without secrets; the same text if there are none. */
    public static String hidden(String text) {
        if (text.indexOf('=') < 0 && text.indexOf('@') < 0) {
            return text;
        }
        String bare = USER_AND_PASSWORD
                .matcher(USER_INFO.matcher(text).replaceAll("//"))
                .replaceAll("");
        return VALUE.matcher(bare).replaceAll("$1" + HIDDEN);
    }

    /** Returns the values of a URL that are secrets. */
    public static List<String> of(String url) {
        List<String> secrets = new ArrayList<>();
        Matcher userInfo = USER_INFO.matcher(url);
        while (userInfo.find()) {
            String both = userInfo.group().substring(2, userInfo.group().length() - 1);
            secrets.add(both);
            secrets.add(both.substring(both.indexOf(':') + 1));
        }
        Matcher value = VALUE.matcher(url);
        while (value.find()) {
            secrets.add(value.group(2));
        }
        return secrets;
    }

    /** Returns an exception in whose messages, and those of its causes, none of these secrets stands. */
    public static Throwable without(Throwable thrown, List<String> secrets) {
        return Objects.requireNonNull(copied(thrown, message -> {
            String bare = hidden(message);
            for (String secret : secrets) {
                bare = secret.length() < 3 ? bare : bare.replace(secret, HIDDEN);
            }
            return bare;
        }));
    }

    /** Returns what a message may name as its cause: where the cause's own message holds a secret, a copy without it. */
    public static @Nullable Throwable hidden(@Nullable Throwable cause) {
        return copied(cause, Secrets::hidden);
    }

    private static @Nullable Throwable copied(@Nullable Throwable cause, UnaryOperator<String> hiding) {
        if (cause == null || cause.getMessage() == null) {
            return cause;
        }
        Throwable deeper = cause.getCause() == cause ? null : copied(cause.getCause(), hiding);
        String message = hiding.apply(cause.getMessage());
        if (message.equals(cause.getMessage()) && deeper == cause.getCause()) {
            return cause;
        }
        Throwable copy = cause instanceof SQLException sql
                ? new SQLException(message, sql.getSQLState(), sql.getErrorCode(), deeper)
                : new RuntimeException(cause.getClass().getName() + ": " + message, deeper);
        copy.setStackTrace(cause.getStackTrace());
        return copy;
    }
}
