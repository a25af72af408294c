package dev.zabbet.internal.memory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.Formula;
import dev.zabbet.internal.mapping.ColumnFit;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.time.Clock;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.UUID;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Fills in what a database fills in when a row is stored: defaults and computed columns. */
final class ColumnFilling {
    private static final Pattern PRESENT = Pattern.compile(
            "(?i)\\(?(current_timestamp|localtimestamp|now|transaction_timestamp|clock_timestamp)\\b.*");
    private static final Pattern TODAY = Pattern.compile("(?i)\\(?(current_date|curdate)\\b(\\(\\))?\\)?");
    private static final Pattern CLOCK_TIME = Pattern.compile("(?i)\\(?(current_time|localtime|curtime)\\b.*");
    private static final Pattern ANY_UUID =
            Pattern.compile("(?i)\\(?(random_uuid|gen_random_uuid|uuid|uuid_generate_v4|newid)\\(\\)\\)?");

    private final Table table;
    private final Clock clock;
    private final Map<Integer, Function<@Nullable Object[], @Nullable Object>> defaults = new LinkedHashMap<>();
    private final Map<Integer, Function<@Nullable Object[], @Nullable Object>> computed = new LinkedHashMap<>();
    private long uuids;

    ColumnFilling(Table table, Clock clock) {
        this.table = table;
        this.clock = clock;
        for (int i = 0; i < table.columns().size(); i++) {
            Column column = table.columns().get(i);
            if (column.isComputed()) {
                computed.put(i, formula(column, column.defaultText().orElse("?"), "The value"));
            } else if (!column.isNumbered() && column.defaultText().isPresent()) {
                defaults.put(i, ofDefault(column, column.defaultText().get()));
            }
        }
    }

    /** Returns a column's default at this moment; null if it has none. */
    @Nullable
    Object defaultOf(int column) {
        Function<@Nullable Object[], @Nullable Object> filling = defaults.get(column);
        return filling == null ? null : filling.apply(new @Nullable Object[0]);
    }

    boolean hasDefault(int column) {
        return defaults.containsKey(column);
    }

    /** Writes the computed columns of a row. */
    void compute(@Nullable Object[] row) {
        computed.forEach((i, filling) -> row[i] = filling.apply(row));
    }

    private Function<@Nullable Object[], @Nullable Object> ofDefault(Column column, String text) {
        String bare = text.replaceAll("(?i)::[a-z ]+(\\(\\d+\\))?$", "").strip();
        if (PRESENT.matcher(bare).matches()) {
            return row -> column.type().kind() == Kind.INSTANT ? clock.instant() : utc();
        }
        if (TODAY.matcher(bare).matches()) {
            return row -> utc().toLocalDate();
        }
        if (CLOCK_TIME.matcher(bare).matches()) {
            return row -> utc().toLocalTime();
        }
        if (ANY_UUID.matcher(bare).matches()) {
            return row -> fitted(column, new UUID(clock.millis() << 16 | 0x4000, 0x8000000000000000L | ++uuids), text);
        }
        return formula(column, text, "The default");
    }

    private Function<@Nullable Object[], @Nullable Object> formula(Column column, String text, String what) {
        Formula formula = Formula.of(table, text).orElse(null);
        if (formula == null) {
            return row -> {
                throw notUnderstood(column, text, what);
            };
        }
        return row -> fitted(
                column,
                formula.value(i -> i < row.length ? row[i] : null)
                        .orElseThrow(() -> notUnderstood(column, text, what))
                        .value(),
                text);
    }

    private @Nullable Object fitted(Column column, @Nullable Object value, String text) {
        try {
            return CanonicalForm.of(column.type(), ColumnFit.rounded(column.type(), value));
        } catch (InexactValueException e) {
            throw notUnderstood(column, text, "The value");
        }
    }

    private ZabbetException notUnderstood(Column column, String text, String what) {
        return new ZabbetException(what + " of " + table.name() + "." + column.name() + ", " + text
                + ", cannot be evaluated in memory. "
                + (column.isComputed() ? "Use a stage on a database for this table." : "Give the column a value."));
    }

    private LocalDateTime utc() {
        return LocalDateTime.ofInstant(clock.instant(), ZoneOffset.UTC);
    }
}
