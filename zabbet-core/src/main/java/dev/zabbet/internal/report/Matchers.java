package dev.zabbet.internal.report;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.LikePattern;
import dev.zabbet.internal.document.DocumentMatch;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Json;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Store;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/** The kinds of matchers. */
public final class Matchers {
    private Matchers() {}

    public record Any() implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return true;
        }

        @Override
        public String describe() {
            return "anything";
        }
    }

    public record NotNull() implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return stored != null;
        }

        @Override
        public String describe() {
            return "not null";
        }
    }

    public record Near(Object value, Object tolerance) implements Matcher, DocumentMatch.Bound {
        @Override
        public @Nullable Object bound() {
            return value;
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            Object wanted = limit(type, value, describe());
            if (stored == null || wanted == null) {
                return false;
            }
            if (tolerance instanceof Duration duration) {
                return apart(type, wanted, stored).compareTo(duration) <= 0;
            }
            if (!(wanted instanceof Number) || !(stored instanceof Number)) {
                throw new ZabbetException(describe() + " needs a column of numbers, not " + type.sqlName() + ".");
            }
            BigDecimal difference = new BigDecimal(wanted.toString()).subtract(new BigDecimal(stored.toString()));
            return difference.abs().compareTo(new BigDecimal(tolerance.toString())) <= 0;
        }

        private Duration apart(DataType type, Object a, Object b) {
            if (a instanceof LocalDateTime x && b instanceof LocalDateTime y) {
                return Duration.between(x, y).abs();
            }
            if (a instanceof Instant x && b instanceof Instant y) {
                return Duration.between(x, y).abs();
            }
            if (a instanceof LocalTime x && b instanceof LocalTime y) {
                return Duration.between(x, y).abs();
            }
            if (a instanceof LocalDate x && b instanceof LocalDate y) {
                return Duration.between(x.atStartOfDay(), y.atStartOfDay()).abs();
            }
            throw new ZabbetException(describe() + " needs a column of times, not " + type.sqlName() + ".");
        }

        @Override
        public String describe() {
            String most = tolerance instanceof Duration d ? d.toMillis() / 1000.0 + " s" : tolerance.toString();
            return "within " + most.replace(".0 s", " s") + " of " + Text.cell(value);
        }
    }

    public record Pattern(java.util.regex.Pattern pattern) implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return stored != null && pattern.matcher(stored.toString()).matches();
        }

        @Override
        public String describe() {
            return "text like /" + pattern.pattern() + "/";
        }
    }

    public record OneOf(List<@Nullable Object> values) implements Matcher, DocumentMatch.Bound {
        @Override
        public @Nullable Object bound() {
            return values.stream().filter(v -> v != null).findFirst().orElse(null);
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return values.stream().anyMatch(v -> ValueEquality.asStored(type, canonical(type, v, describe()), stored));
        }

        @Override
        public String describe() {
            return "one of " + values.stream().map(Text::cell).collect(Collectors.joining(", "));
        }
    }

    public record Between(Object least, Object most) implements Matcher, DocumentMatch.Bound {
        @Override
        public @Nullable Object bound() {
            return least;
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            Object low = limit(type, least, describe());
            Object high = limit(type, most, describe());
            return stored != null
                    && low != null
                    && high != null
                    && Ordering.compare(stored, low) >= 0
                    && Ordering.compare(stored, high) <= 0;
        }

        @Override
        public String describe() {
            return "between " + Text.cell(least) + " and " + Text.cell(most);
        }
    }

    public record Compared(Condition.Comparison comparison, Object value) implements Matcher, DocumentMatch.Bound {
        @Override
        public @Nullable Object bound() {
            return value;
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            Object wanted = limit(type, value, describe());
            return stored != null && wanted != null && comparison.holds(Ordering.compare(stored, wanted));
        }

        @Override
        public String describe() {
            return comparison.sql() + " " + Text.cell(value);
        }
    }

    public record Like(String pattern) implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return stored != null
                    && LikePattern.of(pattern, false).matcher(stored.toString()).matches();
        }

        @Override
        public String describe() {
            return "like " + Text.cell(pattern);
        }
    }

    public record OfColumn(String column) implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            throw new ZabbetException(describe() + " needs the whole row.");
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored, Row row) {
            return ValueEquality.asStored(type, canonical(type, row.get(column), describe()), stored);
        }

        @Override
        public String describe() {
            return "equal to " + column;
        }
    }

    /** What a column of another row holds; that is looked up when the expectation runs. */
    public record OfRow(String table, Object key, String column, Optional<Held> held) implements Matcher {
        /** The value found. */
        record Held(@Nullable Object value) {}

        OfRow resolved(Store store) {
            Table of = store.schema().require(table);
            String name = of.requireColumn(column).name();
            Condition condition = Condition.all();
            Object parts = key instanceof String text && of.keyColumns().size() > 1 ? List.of(text.split("/")) : key;
            for (Map.Entry<String, Object> part : ExpectedRow.key(of, parts).entrySet()) {
                condition = condition.and(new Condition.Equal(part.getKey(), part.getValue()));
            }
            List<Row> rows = store.rows(of, condition);
            if (rows.isEmpty()) {
                throw new Report("No row of " + of.name() + " has the key " + Text.cell(key) + ", whose " + name
                                + " was expected.")
                        .failure(null);
            }
            return new OfRow(
                    table, key, column, Optional.of(new Held(rows.get(0).get(name))));
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            Held found = held.orElseThrow(() -> new ZabbetException(describe() + " cannot be used here."));
            return ValueEquality.asStored(type, canonical(type, found.value(), describe()), stored);
        }

        @Override
        public String describe() {
            return "equal to " + column + " of " + table + " " + Text.cell(key)
                    + held.map(h -> ", " + Text.brief(h.value())).orElse("");
        }
    }

    /**
     * What a file writes for a place in a document, which has no type to read it by: text, or the number, truth or structure that
     * is written so.
     */
    public record AsWritten(String text) implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            if (stored == null) {
                return false;
            }
            return stored.toString().equals(text)
                    || (type.kind() != Kind.TEXT
                            && Json.read(text)
                                    .filter(written -> Json.read(stored.toString())
                                            .filter(held -> Json.same(written.value(), held.value()))
                                            .isPresent())
                                    .isPresent());
        }

        @Override
        public String describe() {
            return Text.brief(text);
        }

        /** Returns a value of a file as it is meant for a part of a row. */
        public static @Nullable Object of(Table table, String name, @Nullable Object value) {
            return value instanceof String text && !RowPart.of(table, name).isColumn() ? new AsWritten(text) : value;
        }
    }

    /** A document of which some parts are not known exactly: all names and elements there, and no others. */
    public record Document(Object meant) implements Matcher {

        /** Returns a document as it is meant: itself if all of it is known. */
        public static @Nullable Object of(@Nullable Object meant) {
            return meant != null && holdsMatcher(meant) ? new Document(meant) : meant;
        }

        private static boolean holdsMatcher(@Nullable Object meant) {
            if (meant instanceof Map<?, ?> map) {
                return map.values().stream().anyMatch(Document::holdsMatcher);
            }
            return meant instanceof List<?> list
                    ? list.stream().anyMatch(Document::holdsMatcher)
                    : meant instanceof Matcher;
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return matches(type, stored, Row.of(Map.of()));
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored, Row row) {
            return stored != null
                    && Json.read(stored.toString())
                            .filter(document -> same(meant, document.value(), row))
                            .isPresent();
        }

        private static boolean same(@Nullable Object meant, @Nullable Object held, Row row) {
            if (meant instanceof Matcher matcher) {
                return DocumentMatch.matches(matcher, held, row);
            }
            if (meant instanceof Map<?, ?> map) {
                return held instanceof Map<?, ?> other
                        && map.keySet().equals(other.keySet())
                        && map.entrySet().stream()
                                .allMatch(entry -> same(entry.getValue(), other.get(entry.getKey()), row));
            }
            if (meant instanceof List<?> list) {
                return held instanceof List<?> other
                        && list.size() == other.size()
                        && IntStream.range(0, list.size()).allMatch(i -> same(list.get(i), other.get(i), row));
            }
            return Json.same(meant, held);
        }

        @Override
        public String describe() {
            return described(meant);
        }

        private static String described(@Nullable Object meant) {
            if (meant instanceof Map<?, ?> map) {
                return map.entrySet().stream()
                        .map(entry -> entry.getKey() + ": " + described(entry.getValue()))
                        .collect(Collectors.joining(", ", "{", "}"));
            }
            if (meant instanceof List<?> list) {
                return list.stream().map(Document::described).collect(Collectors.joining(", ", "[", "]"));
            }
            return meant instanceof Matcher matcher ? matcher.describe() : Text.brief(meant);
        }
    }

    public record JsonPart(String part) implements Matcher {
        public JsonPart {
            if (Json.read(part).isEmpty()) {
                throw new ZabbetException("jsonPart got no JSON: " + Text.cell(part) + ".");
            }
        }

        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return stored != null
                    && Json.read(stored.toString())
                            .filter(whole -> Json.holds(
                                    whole.value(), Json.read(part).orElseThrow().value()))
                            .isPresent();
        }

        @Override
        public String describe() {
            return "JSON with " + part;
        }
    }

    public record Own(String describe, Predicate<? super @Nullable Object> test) implements Matcher {
        @Override
        public boolean matches(DataType type, @Nullable Object stored) {
            return test.test(stored);
        }
    }

    /** A bound of numbers need not be one that the column can hold: less than 7.5 is a condition on whole numbers too. */
    private static @Nullable Object limit(DataType type, Object value, String what) {
        boolean numbers = List.of(Kind.INTEGER, Kind.DECIMAL, Kind.FLOAT).contains(type.kind());
        try {
            return numbers ? new BigDecimal(value.toString()) : canonical(type, value, what);
        } catch (NumberFormatException e) {
            throw new ZabbetException(what + " does not fit a column of " + type.sqlName() + ": " + Text.cell(value)
                    + " is not a number.");
        }
    }

    private static @Nullable Object canonical(DataType type, @Nullable Object value, String what) {
        try {
            return CanonicalForm.of(type, value);
        } catch (InexactValueException e) {
            throw new ZabbetException(what + " does not fit a column of " + type.sqlName() + ": " + e.clause() + ".");
        }
    }
}
