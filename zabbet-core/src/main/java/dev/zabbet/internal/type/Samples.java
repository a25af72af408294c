package dev.zabbet.internal.type;

import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;

/**
 * What a column may hold whose values a converter of the application reads. Most converters take any text or number; where
 * one does not, objects are made and written by it, so that it can read them again.
 */
final class Samples {
    private static final int COUNT = 100;
    private static final List<Object> PROBES = List.of("Probe", 7L);
    private static final Map<Conversion, List<Object>> KNOWN = new ConcurrentHashMap<>();

    private Samples() {}

    /** Returns what a converter writes for some objects of a class; nothing if it reads anything, or none can be made. */
    static List<Object> converted(Class<?> type, Conversion conversion) {
        return KNOWN.computeIfAbsent(
                conversion, c -> PROBES.stream().anyMatch(probe -> isRead(probe, c)) ? List.of() : written(type, c));
    }

    private static boolean isRead(Object probe, Conversion conversion) {
        try {
            return conversion.toProperty(probe) != null;
        } catch (RuntimeException e) {
            return false;
        }
    }

    private static List<Object> written(Class<?> type, Conversion conversion) {
        List<Object> written = new ArrayList<>();
        for (int i = 1; i <= COUNT; i++) {
            try {
                Object stored = conversion.toColumn(sample(type, i));
                if (stored != null && conversion.toProperty(stored) != null && !written.contains(stored)) {
                    written.add(stored);
                }
            } catch (RuntimeException e) {
                return written; // no more than it takes
            }
        }
        return written;
    }

    /** Returns one of many values of a class: another for each number, where there are others. */
    @SuppressWarnings("unchecked")
    static @Nullable Object sample(Class<?> type, int number) {
        Object plain =
                switch (JavaValue.kindOf(type)) {
                    case INTEGER, DECIMAL, FLOAT -> BigDecimal.valueOf(number);
                    case TEXT -> "Value " + number;
                    case BOOLEAN -> number % 2 == 0;
                    case UUID -> new UUID(0, number);
                    case DATE -> LocalDate.EPOCH.plusDays(number);
                    case TIMESTAMP, INSTANT -> Instant.EPOCH.plusSeconds(number);
                    default -> null;
                };
        if (plain == null) {
            return TypeShape.of((Class<Object>) type).make(prop -> sample(prop.type(), number));
        }
        try {
            return Objects.requireNonNull(JavaValue.to(type, plain));
        } catch (InexactValueException e) {
            throw new IllegalStateException(e);
        }
    }
}
