package dev.zabbet.expect;

import dev.zabbet.internal.report.GroupedExpectations;
import dev.zabbet.internal.report.Matchers;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Ordering;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.store.Condition;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/** The words of expected rows; meant for a static import. */
public final class Expected {
    private Expected() {}

    /**
     * {@return a row of one column; {@code with} adds others} The same as {@link Row#row}.
     *
     * @param column the column's name
     * @param value the value, or a matcher where the row is an expectation; may be null
     */
    public static Row row(String column, @Nullable Object value) {
        return Row.row(column, value);
    }

    /**
     * Matches every value, null too.
     *
     * @return the matcher
     */
    public static Matcher any() {
        return new Matchers.Any();
    }

    /**
     * Matches every value but null.
     *
     * @return the matcher
     */
    public static Matcher notNull() {
        return new Matchers.NotNull();
    }

    /**
     * Matches a date or time at most {@code tolerance} before or after {@code time}.
     *
     * @param time the date or time
     * @param tolerance how far apart they may be, included
     * @return the matcher
     */
    public static Matcher near(Object time, Duration tolerance) {
        return new Matchers.Near(Words.notNull(time, "time", "near"), Words.notNull(tolerance, "tolerance", "near"));
    }

    /**
     * Matches a number at most {@code tolerance} below or above {@code number}.
     *
     * @param number the number
     * @param tolerance how far apart they may be, included
     * @return the matcher
     */
    public static Matcher near(Number number, Number tolerance) {
        return new Matchers.Near(
                Words.notNull(number, "number", "near"), Words.notNull(tolerance, "tolerance", "near"));
    }

    /**
     * {@return a duration in seconds, for {@link #near(Object, Duration)}}
     *
     * @param seconds the seconds
     */
    public static Duration seconds(long seconds) {
        return Duration.ofSeconds(seconds);
    }

    /**
     * Matches text that is, as a whole, matched by a regular expression ({@link java.util.regex.Pattern}).
     *
     * @param regularExpression the regular expression
     * @return the matcher
     */
    public static Matcher pattern(String regularExpression) {
        return new Matchers.Pattern(java.util.regex.Pattern.compile(regularExpression));
    }

    /**
     * Matches any of these values; null may be among them.
     *
     * @param values the values; null may be among them
     * @return the matcher
     */
    public static Matcher oneOf(@Nullable Object... values) {
        List<@Nullable Object> list = new ArrayList<>();
        Collections.addAll(list, values);
        return new Matchers.OneOf(Collections.unmodifiableList(list));
    }

    /**
     * Matches a number, text, date or time from {@code least} to {@code most}, both included.
     *
     * @param least the least value, included
     * @param most the greatest value, included
     * @return the matcher
     * @throws IllegalArgumentException if the first is the greater one; two texts are compared as the column's type later
     */
    public static Matcher between(Object least, Object most) {
        boolean comparable = least.getClass() == most.getClass() && !(least instanceof CharSequence);
        if (comparable && least instanceof Comparable<?> && Ordering.compare(least, most) > 0) {
            throw new IllegalArgumentException("between(" + least + ", " + most + "): the first is the greater one.");
        }
        return new Matchers.Between(Words.notNull(least, "least", "between"), Words.notNull(most, "most", "between"));
    }

    /**
     * Matches what is less than a number, text, date or time.
     *
     * @param bound the limit: a number, text, date or time
     * @return the matcher
     */
    public static Matcher below(Object bound) {
        return new Matchers.Compared(Condition.Comparison.LESS, Words.notNull(bound, "bound", "below"));
    }

    /**
     * Matches what is less or equal.
     *
     * @param bound the limit: a number, text, date or time
     * @return the matcher
     */
    public static Matcher upTo(Object bound) {
        return new Matchers.Compared(Condition.Comparison.AT_MOST, Words.notNull(bound, "bound", "upTo"));
    }

    /**
     * Matches what is greater than a number, text, date or time.
     *
     * @param bound the limit: a number, text, date or time
     * @return the matcher
     */
    public static Matcher above(Object bound) {
        return new Matchers.Compared(Condition.Comparison.GREATER, Words.notNull(bound, "bound", "above"));
    }

    /**
     * Matches what is greater or equal.
     *
     * @param bound the limit: a number, text, date or time
     * @return the matcher
     */
    public static Matcher from(Object bound) {
        return new Matchers.Compared(Condition.Comparison.AT_LEAST, Words.notNull(bound, "bound", "from"));
    }

    /**
     * Matches every value but this one and null.
     *
     * @param value the value that is not wanted
     * @return the matcher
     */
    public static Matcher otherThan(Object value) {
        return new Matchers.Compared(Condition.Comparison.OTHER_THAN, Words.notNull(value, "value", "otherThan"));
    }

    /**
     * Matches text by a pattern of SQL's LIKE: {@code %} stands for any text, {@code _} for one character.
     *
     * @param pattern the pattern
     * @return the matcher
     */
    public static Matcher like(String pattern) {
        return new Matchers.Like(Words.notNull(pattern, "pattern", "like"));
    }

    /**
     * Matches what another column of the same row holds.
     *
     * @param column the column's name
     * @return the matcher
     */
    public static Matcher equalToColumn(String column) {
        return new Matchers.OfColumn(Words.notNull(column, "column", "equalToColumn"));
    }

    /**
     * Matches what a column of another row holds when the expectation runs.
     *
     * @param table the table that the row is in
     * @param key its key; of a key of several columns a list in key order, or a row
     * @param column the column
     * @return the matcher
     */
    public static Matcher equalToColumn(String table, Object key, String column) {
        return new Matchers.OfRow(
                Words.notNull(table, "table", "equalToColumn"),
                Words.notNull(key, "key", "equalToColumn"),
                Words.notNull(column, "column", "equalToColumn"),
                Optional.empty());
    }

    /**
     * Matches a JSON document that says at least what this one does: of objects the names there, of arrays each element.
     *
     * @param json the part, as JSON
     * @return the matcher
     */
    public static Matcher jsonPart(String json) {
        return new Matchers.JsonPart(Words.notNull(json, "json", "jsonPart"));
    }

    /**
     * Runs several expectations, and reports all that do not hold together.
     *
     * @param expectations the expectations; each is evaluated even if one before it fails
     */
    public static void together(Runnable... expectations) {
        GroupedExpectations.run(expectations);
    }

    /**
     * Matches every value that the given test accepts.
     *
     * @param description what is accepted, for the report: "a weekday"
     * @param test is given the value in the form that {@link dev.zabbet.type.Kind} names, or null
     * @return the matcher
     */
    public static Matcher satisfying(String description, Predicate<? super @Nullable Object> test) {
        return new Matchers.Own(description, test);
    }
}
