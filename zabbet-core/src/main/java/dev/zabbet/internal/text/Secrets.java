package dev.zabbet.internal.text;

import java.sql.SQLException;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Takes secrets out of messages: user information of URLs (RFC 3986, 3.2.1) and values whose name looks like a secret.
 * Drivers put whole URLs into what they say.
 */
public final class Secrets {
    private static final Pattern USER_INFO = Pattern.compile("(?<=[A-Za-z0-9]:)//[^\\s\"'?;]*@");
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
        return VALUE.matcher(USER_INFO.matcher(text).replaceAll("//")).replaceAll("$1" + HIDDEN);
    }

    /** Returns what a message may name as its cause: where the cause's own message holds a secret, a copy without it. */
    public static @Nullable Throwable hidden(@Nullable Throwable cause) {
        if (cause == null || cause.getMessage() == null) {
            return cause;
        }
        Throwable deeper = cause.getCause() == cause ? null : hidden(cause.getCause());
        String message = hidden(cause.getMessage());
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
