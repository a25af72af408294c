package dev.zabbet.internal.document;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.internal.value.Json;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Matchers at a place in a document, which has no type of its own: what stands there is taken as a matcher's bounds are, text as a
 * time beside a time. What cannot be taken so is no match.
 */
public final class DocumentMatch {
    private static final Set<Kind> TIMES = EnumSet.of(Kind.INSTANT, Kind.TIMESTAMP, Kind.DATE, Kind.TIME);

    private DocumentMatch() {}

    /** A matcher that compares with a value. */
    public interface Bound {
        /** Returns one of the values that are compared with; null if there is none. */
        @Nullable
        Object bound();
    }

    public static boolean matches(Matcher matcher, @Nullable Object held, Row row) {
        try {
            Object bound = matcher instanceof Bound compared ? compared.bound() : null;
            if (held instanceof String text && bound != null && TIMES.contains(JavaValue.kindOf(bound.getClass()))) {
                DataType type = DataType.of(JavaValue.kindOf(bound.getClass()), "a time in a document");
                return matcher.matches(type, CanonicalForm.of(type, text), row);
            }
            boolean structure = held instanceof Map || held instanceof List;
            return matcher.matches(RowPart.type(held), structure ? Json.write(held) : held, row);
        } catch (InexactValueException | ZabbetException e) {
            return false;
        }
    }
}
