package dev.zabbet.internal.fake;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.ConstraintException;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.CompletableFuture;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Brings results of calls into a text that is the same for the same outcome. */
final class Outcomes {
    /** The outcome of a call that fails without an SQLState. */
    static final String FAILS = "fails";

    private Outcomes() {}

    static String of(@Nullable Object result, boolean ordered, Schema schema) {
        if (result instanceof Optional<?> optional) {
            return optional.map(held -> "Optional of " + of(held, ordered, schema))
                    .orElse("nothing");
        }
        if (result instanceof Stream<?> stream) {
            return of(stream.toList(), ordered, schema);
        }
        if (result instanceof CompletableFuture<?> future) {
            return of(future.join(), ordered, schema);
        }
        if (result instanceof Object[] array) {
            return of(Arrays.asList(array), ordered, schema);
        }
        if (result instanceof Map<?, ?> map) {
            Map<String, String> sorted = new TreeMap<>();
            map.forEach((key, value) -> sorted.put(of(key, ordered, schema), of(value, ordered, schema)));
            return sorted.toString();
        }
        if (result instanceof Iterable<?> several) {
            List<String> texts = new ArrayList<>();
            several.forEach(one -> texts.add(of(one, ordered, schema)));
            if (!ordered) {
                Collections.sort(texts);
            }
            return texts.toString();
        }
        if (result != null && EntityType.isEntity(result.getClass(), schema)) {
            EntityType entity = EntityType.of(result.getClass(), schema);
            return result.getClass().getSimpleName() + text(entity.row(result));
        }
        return cell(result);
    }

    static String text(Row row) {
        StringBuilder text = new StringBuilder("(");
        for (String column : row.columns()) {
            text.append(text.length() == 1 ? "" : ", ")
                    .append(column)
                    .append('=')
                    .append(cell(row.get(column)));
        }
        return text.append(')').toString();
    }

    private static String cell(@Nullable Object value) {
        if (value instanceof BigDecimal number) {
            return number.stripTrailingZeros().toPlainString();
        }
        if (value instanceof byte[] bytes) {
            return Arrays.toString(bytes);
        }
        return String.valueOf(value);
    }

    /** Failures are alike if their SQLStates are of one class; without one, any failure is alike. */
    static String failure(Throwable thrown) {
        for (Throwable at = thrown; at != null; at = at.getCause()) {
            String state;
            if (at instanceof SQLException sql) {
                state = sql.getSQLState();
            } else if (at instanceof ConstraintException refusal) {
                state = refusal.sqlState();
            } else {
                state = null;
            }
            if (state != null && state.length() >= 2) {
                return FAILS + ", SQLState class " + state.substring(0, 2);
            }
        }
        return FAILS;
    }
}
