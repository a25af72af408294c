package dev.zabbet.seed;

import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.value.Values;
import java.time.temporal.TemporalAmount;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** A value of a seed's row that is worked out when the row is stored. Plain values stand for themselves. */
public sealed interface SeedValue {

    /**
     * The key of a labelled row; in a reference of several columns all of them are set.
     *
     * @param label the label, unique in the table that is referred to
     */
    record RowRef(String label) implements SeedValue {
        @Override
        public String toString() {
            return "{row: " + label + "}";
        }
    }

    /**
     * The key of a row that has to be stored already.
     *
     * @param key the columns of a unique key, with plain values
     */
    record Stored(Row key) implements SeedValue {
        @Override
        public String toString() {
            return "{stored: " + key + "}";
        }
    }

    /**
     * A long value that stands in a file of its own: text in UTF-8, or the bytes of a column of bytes.
     *
     * @param where the file, or a resource on the class path
     */
    record InFile(String where) implements SeedValue {
        @Override
        public String toString() {
            return "{file: " + where + "}";
        }
    }

    /**
     * A time counted from the seed's clock: a {@link java.time.Duration} or {@link java.time.Period}.
     *
     * @param amount how far from the clock; negative before it
     */
    record FromClock(TemporalAmount amount) implements SeedValue {
        @Override
        public String toString() {
            return "{after: " + amount + "}";
        }
    }

    /**
     * Values taken one after another, row by row of a repetition, from the start again after the last.
     *
     * @param values the values, plain or others
     */
    record InTurn(List<@Nullable Object> values) implements SeedValue {
        /** {@return whether some of the values are made for each row} */
        public boolean isMade() {
            return values.stream().anyMatch(Made.class::isInstance);
        }

        /** {@return what takes the values in turn, and makes those that are made for each row} */
        public Function<Values, @Nullable Object> how() {
            List<Optional<Function<Values, Object>>> made = values.stream()
                    .map(value -> Optional.ofNullable(value instanceof Made one ? one.how() : null))
                    .toList();
            return row -> {
                int turn = (int) Math.floorMod(row.ordinal() - 1L, (long) values.size());
                Optional<Function<Values, Object>> how = made.get(turn);
                return how.isPresent() ? how.get().apply(row) : values.get(turn);
            };
        }

        /**
         * Copies the values.
         *
         * @param values the values; null may be among them
         */
        public InTurn {
            values = Collections.unmodifiableList(new ArrayList<>(values));
        }

        @Override
        public String toString() {
            return "{inTurn: " + values + "}";
        }
    }

    /** A value that is made for each row. */
    sealed interface Made extends SeedValue permits Invented, Between, Rising {
        /** {@return what makes it} */
        Function<Values, Object> how();
    }

    /**
     * One of the rows that are stored already; of rows that are made together, one that was made before.
     *
     * @param skewed whether a few of them are taken much more often than most
     */
    record AnyStored(boolean skewed) implements SeedValue {
        @Override
        public String toString() {
            return "{stored: " + (skewed ? "skewed" : "any") + "}";
        }
    }

    /**
     * A number, date or time from one to another, both included: whole numbers, numbers with as many digits after the point as the bounds
     * have, dates, or times at full seconds.
     *
     * @param from the lowest
     * @param to the highest
     */
    record Between(String from, String to) implements Made {
        /**
         * Tries the bounds.
         *
         * @param from the lowest
         * @param to the highest
         * @throws dev.zabbet.error.ZabbetException if they are no two numbers, dates or times, the lower one first
         */
        public Between {
            SeedRange.between(from, to);
        }

        @Override
        public Function<Values, Object> how() {
            return SeedRange.between(from, to);
        }

        @Override
        public String toString() {
            return "{between: [" + from + ", " + to + "]}";
        }
    }

    /**
     * A number, date or time that rises row by row: the first row of a table has the start.
     *
     * @param start the first row's
     * @param step how much more each row after it has: a number, an ISO 8601 period for dates, a duration for times
     */
    record Rising(String start, String step) implements Made {
        /**
         * Tries both.
         *
         * @param start the first row's
         * @param step how much more each row after it has
         * @throws dev.zabbet.error.ZabbetException if the step cannot be added to the start
         */
        public Rising {
            SeedRange.rising(start, step);
        }

        @Override
        public Function<Values, Object> how() {
            return SeedRange.rising(start, step);
        }

        @Override
        public String toString() {
            return "{rising: [" + start + ", " + step + "]}";
        }
    }

    /**
     * An invented value of a kind.
     *
     * @param kind one of {@link #INVENTED}
     */
    record Invented(String kind) implements Made {
        @Override
        public Function<Values, Object> how() {
            return Words.notNull(INVENTED.get(kind), "kind", "invent");
        }

        @Override
        public String toString() {
            return "{invent: " + kind + "}";
        }
    }

    /**
     * A document as it is written out, of whose parts some may be worked out: maps, lists, text, numbers, truth values, null, and seed
     * values among them.
     *
     * @param value the document
     * @param plain what it is for a column that holds no documents: a list; null if it is nothing there
     * @param otherwise what to report where it is nothing
     */
    record Nested(@Nullable Object value, @Nullable Object plain, String otherwise) implements SeedValue {
        /** {@return whether a part of the document is worked out when the row is stored} */
        public boolean isWorkedOut() {
            return holdsSeedValue(value);
        }

        private static boolean holdsSeedValue(@Nullable Object part) {
            if (part instanceof Map<?, ?> map) {
                return map.values().stream().anyMatch(Nested::holdsSeedValue);
            }
            return part instanceof List<?> list
                    ? list.stream().anyMatch(Nested::holdsSeedValue)
                    : part instanceof SeedValue;
        }

        @Override
        public String toString() {
            return String.valueOf(value);
        }
    }

    /** The kinds of invented values, by name. */
    Map<String, Function<Values, Object>> INVENTED = invented();

    private static Map<String, Function<Values, Object>> invented() {
        Map<String, Function<Values, Object>> kinds = new LinkedHashMap<>();
        kinds.put("personName", Values::personName);
        kinds.put("email", Values::email);
        kinds.put("phone", Values::phone);
        kinds.put("place", Values::place);
        kinds.put("street", Values::street);
        kinds.put("company", Values::company);
        kinds.put("word", Values::word);
        kinds.put("sentence", Values::sentence);
        kinds.put("paragraph", Values::paragraph);
        kinds.put("uuid", Values::uuid);
        kinds.put("now", Values::now);
        kinds.put("today", Values::today);
        kinds.put("ordinal", Values::ordinal);
        return Collections.unmodifiableMap(kinds);
    }
}
