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

    /**
     * An invented value of a kind.
     *
     * @param kind one of {@link #INVENTED}
     */
    record Invented(String kind) implements SeedValue {
        /** {@return what invents values of this kind} */
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
