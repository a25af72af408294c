package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A file of SQL statements, separated by semicolons. */
final class SqlScript {
    private final String name;
    private final List<Part> parts;

    /** A statement and the line on which it begins, from 1. */
    private record Part(String sql, int line) {}

    private SqlScript(String name, String text) {
        this.name = name;
        this.parts = split(text);
    }

    /** Returns the statements as a script of their own. */
    static SqlScript of(String statements) {
        return new SqlScript("SQL", statements);
    }

    /** Finds a script on the class path of the present thread or of the caller, or in the file system. */
    static SqlScript find(String name, Class<?> caller) {
        String resource = name.startsWith("/") ? name.substring(1) : name;
        try (InputStream in = open(resource, caller)) {
            if (in != null) {
                return new SqlScript(name, new String(in.readAllBytes(), StandardCharsets.UTF_8));
            }
            Path file = Path.of(name);
            if (Files.isRegularFile(file)) {
                return new SqlScript(name, Files.readString(file));
            }
        } catch (IOException e) {
            throw new ZabbetException("The script " + name + " cannot be read: " + e.getMessage(), e);
        }
        throw new ZabbetException("There is no script " + name + ", neither on the class path (as " + resource
                + ") nor as a file (" + Path.of(name).toAbsolutePath() + ").");
    }

    private static @Nullable InputStream open(String resource, Class<?> caller) {
        ClassLoader context = Thread.currentThread().getContextClassLoader();
        InputStream in = context == null ? null : context.getResourceAsStream(resource);
        return in != null ? in : caller.getResourceAsStream("/" + resource);
    }

    /** Returns what tells this script from another: the SHA-256 of its statements, shortened. */
    String fingerprint() {
        try {
            MessageDigest digest = MessageDigest.getInstance("SHA-256");
            parts.forEach(part -> digest.update((part.sql() + ";").getBytes(StandardCharsets.UTF_8)));
            return HexFormat.of().formatHex(digest.digest(), 0, 12);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    /** Runs all statements in order; stops at the first that fails. */
    void run(Connection connection) {
        int number = 0;
        for (Part part : parts) {
            number++;
            try (Statement statement = connection.createStatement()) {
                statement.execute(part.sql());
            } catch (SQLException e) {
                throw new ZabbetException(
                        name + ", line " + part.line() + ": statement " + number + " of " + parts.size() + " failed.\n"
                                + "  " + Words.cut(part.sql().replaceAll("\\s+", " "), 200) + "\n"
                                + "The database says: " + reason(e),
                        e);
            }
        }
    }

    /** Some drivers repeat the whole statement behind the reason. */
    private static String reason(SQLException e) {
        String message = String.valueOf(e.getMessage());
        int statement = message.indexOf("; SQL statement:");
        return statement < 0 ? message : message.substring(0, statement);
    }

    private static List<Part> split(String text) {
        List<Part> parts = new ArrayList<>();
        int start = 0;
        int at = 0;
        while (at < text.length()) {
            char c = text.charAt(at);
            if (c == '\'' || c == '"' || c == '`') {
                at = after(text, String.valueOf(c), at + 1);
            } else if (text.startsWith("--", at)) {
                at = after(text, "\n", at);
            } else if (text.startsWith("/*", at)) {
                at = after(text, "*/", at);
            } else if (c == '$' && text.startsWith("$$", at)) {
                at = after(text, "$$", at + 2);
            } else {
                at++;
                if (c == ';') {
                    add(parts, text, start, at - 1);
                    start = at;
                }
            }
        }
        add(parts, text, start, text.length());
        return parts;
    }

    private static int after(String text, String end, int from) {
        int found = text.indexOf(end, from);
        return found < 0 ? text.length() : found + end.length();
    }

    private static void add(List<Part> parts, String text, int from, int to) {
        String raw = text.substring(from, to);
        String bare = raw.replaceAll("(?s)/\\*.*?\\*/", " ")
                .replaceAll("--[^\n]*", " ")
                .strip();
        if (bare.isEmpty()) {
            return;
        }
        int first = from;
        while (first < to && (Character.isWhitespace(text.charAt(first)) || text.startsWith("--", first))) {
            first = text.startsWith("--", first) ? after(text, "\n", first) : first + 1;
        }
        int line = 1
                + (int) text.substring(0, first)
                        .chars()
                        .filter(ch -> ch == '\n')
                        .count();
        parts.add(new Part(text.substring(Math.min(first, to), to).strip(), line));
    }
}
