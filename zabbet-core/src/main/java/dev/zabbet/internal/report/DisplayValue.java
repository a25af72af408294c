package dev.zabbet.internal.report;

import dev.zabbet.internal.value.Json;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.math.BigDecimal;
import org.jspecify.annotations.Nullable;

/** Values as reports show them: the same for every database, however it hands them back. */
final class DisplayValue {
    private DisplayValue() {}

    /** Returns a number with all digits behind the point that its column has, and JSON without blanks between its parts. */
    static @Nullable Object of(Column column, @Nullable Object value) {
        DataType type = column.type();
        if (type.kind() == Kind.DECIMAL
                && type.precision() != DataType.UNLIMITED
                && value instanceof BigDecimal number
                && number.scale() < type.scale()) {
            return number.setScale(type.scale());
        }
        return type.kind() == Kind.JSON
                        && value instanceof String json
                        && Json.read(json).isPresent()
                ? compact(json)
                : value;
    }

    private static String compact(String json) {
        StringBuilder kept = new StringBuilder();
        boolean inText = false;
        for (int i = 0; i < json.length(); i++) {
            char c = json.charAt(i);
            if (inText && c == '\\' && i + 1 < json.length()) {
                kept.append(c).append(json.charAt(++i));
                continue;
            }
            inText ^= c == '"';
            if (inText || !Character.isWhitespace(c)) {
                kept.append(c);
            }
        }
        return kept.toString();
    }
}
