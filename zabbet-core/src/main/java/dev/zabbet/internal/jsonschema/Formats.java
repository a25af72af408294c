package dev.zabbet.internal.jsonschema;

import java.net.URI;
import java.net.URISyntaxException;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.OffsetDateTime;
import java.time.OffsetTime;
import java.util.Map;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import java.util.regex.PatternSyntaxException;

/** The formats of texts that the draft names (JSON Schema Validation, section 7.3), as far as they are known here. */
public final class Formats {
    private static final Pattern TIME = Pattern.compile("\\d\\d:\\d\\d:\\d\\d(\\.\\d{1,9})?([Zz]|[+-]\\d\\d:\\d\\d)");
    private static final Pattern EMAIL = Pattern.compile("[\\w.!#$%&'*+/=?^`{|}~-]+@[A-Za-z0-9-]+(\\.[A-Za-z0-9-]+)*");
    private static final Pattern LABELS = Pattern.compile(
            "(?=.{1,253}$)[A-Za-z0-9]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?(\\.[A-Za-z0-9]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?)*");
    private static final Pattern UUID =
            Pattern.compile("[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}");
    private static final Pattern IPV4 =
            Pattern.compile("((25[0-5]|2[0-4]\\d|1\\d\\d|[1-9]?\\d)\\.){3}(25[0-5]|2[0-4]\\d|1\\d\\d|[1-9]?\\d)");
    private static final Pattern IPV6 = Pattern.compile("([0-9a-fA-F]{1,4}:){7}[0-9a-fA-F]{1,4}");
    private static final Pattern DURATION =
            Pattern.compile("P(?!$)(\\d+W|(\\d+Y)?(\\d+M)?(\\d+D)?(T(?=\\d)(\\d+H)?(\\d+M)?(\\d+S)?)?)");
    private static final Pattern POINTER = Pattern.compile("(/([^~/]|~[01])*)*");

    private static final Map<String, Predicate<String>> KNOWN = Map.ofEntries(
            Map.entry("date", text -> text.length() == 10 && parses(() -> LocalDate.parse(text))),
            Map.entry("time", text -> TIME.matcher(text).matches() && parses(() -> OffsetTime.parse(text))),
            Map.entry(
                    "date-time",
                    text -> text.matches("\\d{4}-\\d\\d-\\d\\d[Tt].*")
                            && TIME.matcher(text.substring(11)).matches()
                            && parses(() -> OffsetDateTime.parse(text))),
            Map.entry("duration", text -> DURATION.matcher(text).matches()),
            Map.entry("email", text -> EMAIL.matcher(text).matches()),
            Map.entry("idn-email", text -> text.matches("\\S+@\\S+")),
            Map.entry("hostname", text -> LABELS.matcher(text).matches()),
            Map.entry("idn-hostname", text -> LABELS.matcher(text).matches()),
            Map.entry("ipv4", text -> IPV4.matcher(text).matches()),
            Map.entry("ipv6", text -> IPV6.matcher(text).matches()),
            Map.entry("uri", text -> isUri(text, true)),
            Map.entry("uri-reference", text -> isUri(text, false)),
            Map.entry("iri", text -> isUri(text, true)),
            Map.entry("iri-reference", text -> isUri(text, false)),
            Map.entry("uuid", text -> UUID.matcher(text).matches()),
            Map.entry("json-pointer", text -> POINTER.matcher(text).matches()),
            Map.entry("regex", Formats::isExpression));

    private Formats() {}

    /** Tells whether a text has a format; of one that is not known, that it has. */
    public static boolean holds(String format, String text) {
        Predicate<String> known = KNOWN.get(format);
        return known == null || known.test(text);
    }

    public static boolean isKnown(String format) {
        return KNOWN.containsKey(format);
    }

    private static boolean parses(Runnable reading) {
        try {
            reading.run();
            return true;
        } catch (DateTimeException e) {
            return false;
        }
    }

    private static boolean isUri(String text, boolean absolute) {
        try {
            return new URI(text).isAbsolute() || !absolute;
        } catch (URISyntaxException e) {
            return false;
        }
    }

    private static boolean isExpression(String text) {
        try {
            Pattern.compile(text);
            return true;
        } catch (PatternSyntaxException e) {
            return false;
        }
    }
}
