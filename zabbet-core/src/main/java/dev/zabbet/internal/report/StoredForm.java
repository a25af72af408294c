package dev.zabbet.internal.report;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.Text;
import dev.zabbet.internal.value.ValueEquality;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What a column keeps of a value that is considered equal although stored differently: a time without the digits that are too fine for it,
 * a text filled up with blanks. A strict expectation takes it for another value.
 */
final class StoredForm {
    private static final int DEFAULT_DIGITS = 6;

    private StoredForm() {}

    /** Returns what became of a value, in a sentence; empty if the column keeps it as it is. */
    static Optional<String> of(Column column, @Nullable Object given, @Nullable Object stored) {
        DataType type = column.type();
        if (given == null || stored == null) {
            return Optional.empty();
        }
        if (type.kind() == Kind.FIXED_TEXT && given instanceof String text && type.length() > text.length()) {
            return Optional.of(column.name() + ": filled up with blanks to " + Words.count(type.length(), "character")
                    + ", the column's width.");
        }
        boolean moment = type.kind() == Kind.TIMESTAMP || type.kind() == Kind.INSTANT || type.kind() == Kind.TIME;
        if (moment && !ValueEquality.values(canonical(type, given), stored)) {
            int digits = type.precision() == DataType.UNLIMITED ? DEFAULT_DIGITS : type.precision();
            return Optional.of(column.name() + ": " + Text.cell(canonical(type, given)) + " became " + Text.cell(stored)
                    + "; the column keeps "
                    + (digits == 0 ? "whole seconds." : Words.count(digits, "digit") + " of a second."));
        }
        return Optional.empty();
    }

    private static @Nullable Object canonical(DataType type, Object given) {
        try {
            return CanonicalForm.of(type, given);
        } catch (InexactValueException e) {
            return given;
        }
    }
}
