package dev.zabbet.jdbc.internal.script;

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
import java.util.Locale;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** A file of SQL statements, separated by semicolons. */
public final class SqlScript {
    private final String name;
    private final String text;

    /** A statement and the line on which it begins, from 1. */
    private record Part(String sql, int line) {}

    private SqlScript(String name, String text) {
        this.name = name;
        this.text = text;
    }

    /** Returns the statements as a script of their own. */
    public static SqlScript of(String statements) {
        return new SqlScript("SQL", statements);
    }

    /** Finds a script on the class path of the present thread or of the caller, or in the file system. */
    public static SqlScript find(String name, Class<?> caller) {
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
    public String fingerprint() {
        try {
            MessageDigest digest = MessageDigest.getInstance("SHA-256");
            parts(false).forEach(part -> digest.update((part.sql() + ";").getBytes(StandardCharsets.UTF_8)));
            return HexFormat.of().formatHex(digest.digest(), 0, 12);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    /** @param backslashes whether a backslash in quotes takes its meaning from the next character, as in MariaDB */
    private List<Part> parts(boolean backslashes) {
        return new Splitter(text, backslashes).parts();
    }

    /** Runs all statements in order; stops at the first that fails. */
    public void run(Connection connection) {
        int number = 0;
        List<Part> parts = parts(isMariaDb(connection));
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

    private static boolean isMariaDb(Connection connection) {
        try {
            return connection.getMetaData().getDatabaseProductName().matches("MariaDB|MySQL");
        } catch (SQLException e) {
            throw new ZabbetException("The database cannot be reached: " + e.getMessage(), e);
        }
    }

    /** Some drivers repeat the whole statement behind the reason. */
    private static String reason(SQLException e) {
        String message = String.valueOf(e.getMessage());
        int statement = message.indexOf("; SQL statement:");
        return statement < 0 ? message : message.substring(0, statement);
    }

    /**
     * Splits a script into its statements as the databases' own clients do.
     *
     * <ul>
     *   <li>Semicolons within quotes, comments and dollar quotes ({@code $body$ … $body$}) do not count.
     *   <li>Of CREATE TRIGGER, PROCEDURE, FUNCTION, EVENT or PACKAGE those within BEGIN … END do not count either.
     *   <li>A line {@code DELIMITER //} says what ends a statement from there on.
     * </ul>
     *
     * <p>Own code, since a splitter for all four databases is offered by no driver: PostgreSQL's and MariaDB's take several
     * statements at once but then tell no line, SQLite's and H2's take one.
     */
    private static final class Splitter {
        private static final Pattern DELIMITER = Pattern.compile("(?i)DELIMITER[ \t]+(\\S+)[ \t]*");
        private static final Pattern DOLLAR = Pattern.compile("\\$([A-Za-z_\\x80-\\uFFFF][\\w\\x80-\\uFFFF]*)?\\$");
        private static final Pattern WORD = Pattern.compile("[A-Za-z_]\\w*");
        private static final Pattern ROUTINE = Pattern.compile(
                "(?is)\\s*CREATE\\b(?:(?!\\b(?:AS|BEGIN|SELECT|TABLE|VIEW|INDEX)\\b).)*?\\b(TRIGGER|PROCEDURE|FUNCTION|EVENT|PACKAGE)");
        private static final Set<String> LOOPS = Set.of("IF", "LOOP", "WHILE", "REPEAT", "FOR");

        private final String text;
        private final boolean backslashes;
        private final List<Part> parts = new ArrayList<>();
        private String delimiter = ";";
        private int start;
        private int at;
        private int depth; // of BEGIN and CASE

        Splitter(String text, boolean backslashes) {
            this.text = text;
            this.backslashes = backslashes;
        }

        List<Part> parts() {
            while (at < text.length()) {
                char c = text.charAt(at);
                Matcher command = DELIMITER.matcher(text).region(at, text.length());
                if (isLineStart() && command.lookingAt() && isBlank(start, at)) {
                    delimiter = command.group(1);
                    at = after(text, "\n", at);
                    start = at;
                } else if (depth == 0 && text.startsWith(delimiter, at)) {
                    add(parts, text, start, at);
                    at += delimiter.length();
                    start = at;
                } else if (c == '\'' || c == '"' || c == '`') {
                    at = afterQuote(c);
                } else if (text.startsWith("--", at) || (c == '#' && isLineStart())) {
                    at = after(text, "\n", at);
                } else if (text.startsWith("/*", at)) {
                    at = after(text, "*/", at + 2);
                } else if (c == '$') {
                    Matcher tag = DOLLAR.matcher(text).region(at, text.length());
                    boolean quote =
                            tag.lookingAt() && (at == 0 || !Character.isJavaIdentifierPart(text.charAt(at - 1)));
                    at = quote ? after(text, tag.group(), tag.end()) : at + 1;
                } else {
                    word();
                }
            }
            add(parts, text, start, text.length());
            return parts;
        }

        /** Goes past a word, or any other character; in a routine the words that open and close a block are counted. */
        private void word() {
            Matcher word = WORD.matcher(text).region(at, text.length());
            if (!word.lookingAt()) {
                at++;
                return;
            }
            String upper = word.group().toUpperCase(Locale.ROOT);
            int from = at;
            at = word.end();
            boolean block = upper.equals("BEGIN") || upper.equals("CASE") || upper.equals("END");
            if (!block || !ROUTINE.matcher(bare(text.substring(start, from))).lookingAt()) {
                return;
            }
            if (!upper.equals("END")) {
                depth++;
                return;
            }
            int next = at;
            while (next < text.length() && Character.isWhitespace(text.charAt(next))) {
                next++;
            }
            Matcher of = WORD.matcher(text).region(next, text.length());
            String closes = of.lookingAt() ? of.group().toUpperCase(Locale.ROOT) : "";
            if (closes.equals("CASE")) {
                at = of.end();
            }
            if (!LOOPS.contains(closes) && depth > 0) {
                depth--;
            }
        }

        private int afterQuote(char quote) {
            boolean escapes = quote != '`'
                    && (backslashes
                            || (quote == '\''
                                    && at > 0
                                    && "eE".indexOf(text.charAt(at - 1)) >= 0
                                    && (at < 2 || !Character.isJavaIdentifierPart(text.charAt(at - 2)))));
            for (int i = at + 1; i < text.length(); i++) {
                if (escapes && text.charAt(i) == '\\') {
                    i++;
                } else if (text.charAt(i) == quote) {
                    return i + 1;
                }
            }
            return text.length();
        }

        private boolean isLineStart() {
            for (int i = at - 1; i >= 0 && text.charAt(i) != '\n'; i--) {
                if (!Character.isWhitespace(text.charAt(i))) {
                    return false;
                }
            }
            return true;
        }

        private boolean isBlank(int from, int to) {
            return bare(text.substring(from, to)).isEmpty();
        }
    }

    private static int after(String text, String end, int from) {
        int found = text.indexOf(end, from);
        return found < 0 ? text.length() : found + end.length();
    }

    /** Without comments, but for those that MariaDB runs. */
    private static String bare(String sql) {
        return sql.replaceAll("(?s)/\\*[^!M].*?\\*/|/\\*\\*/", " ")
                .replaceAll("(?m)--[^\n]*|^\\s*#[^\n]*", " ")
                .strip();
    }

    private static void add(List<Part> parts, String text, int from, int to) {
        String raw = text.substring(from, to);
        if (bare(raw).isEmpty()) {
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
