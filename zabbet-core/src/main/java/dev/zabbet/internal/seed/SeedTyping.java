package dev.zabbet.internal.seed;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.seed.SourceLocation;
import dev.zabbet.type.Kind;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.Period;
import java.time.ZoneOffset;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Reads the values of a seed as their columns' types; what stands for a row, or is invented, is left for later. */
final class SeedTyping {
    private final Instant now;
    private final SeedProblems trouble;

    SeedTyping(Instant now, SeedProblems trouble) {
        this.now = now;
        this.trouble = trouble;
    }

    @Nullable
    Object of(SeedEntry entry, Column column, @Nullable Object value, SourceLocation place) {
        if (value instanceof SeedValue.InTurn inTurn) {
            return new SeedValue.InTurn(inTurn.values().stream()
                    .map(v -> of(entry, column, v, place))
                    .toList());
        }
        Object held = value instanceof SeedValue.FromClock from ? fromClock(entry, column, from, place) : value;
        if (held instanceof SeedValue.RowRef
                || held instanceof SeedValue.Stored
                || held instanceof SeedValue.AnyStored) {
            if (entry.table.referencesOf(column.name()).isEmpty()) {
                trouble.add(
                        place,
                        entry.table.name() + "." + column.name() + " refers to no table; {"
                                + (held instanceof SeedValue.RowRef ? "row" : "stored") + ": …} stands for a"
                                + " reference." + referring(entry.table));
            }
            return held;
        }
        if (held instanceof SeedValue.Made) {
            return held;
        }
        if (held instanceof SeedValue.Nested nested) {
            boolean document = column.type().kind() == Kind.JSON; // one of several in turn: nothing in it is worked out
            held = document && !nested.isWorkedOut() ? PlainDocument.write(nested.value()) : nested.plain();
            if (held == null && document) {
                trouble.add(
                        place,
                        entry.table.name() + "." + column.name() + ": what is worked out inside of documents that come"
                                + " in turn stands at a place of its own: \"" + column.name()
                                + ".place\": {inTurn: […]}.");
                return null;
            }
            if (held == null) {
                trouble.add(place, entry.table.name() + "." + column.name() + ": " + nested.otherwise());
                return null;
            }
        }
        try {
            if (held instanceof SeedValue.InFile file) {
                held = column.type().kind() == Kind.BYTES ? Seed.bytes(file.where()) : Seed.text(file.where());
            }
            return CanonicalForm.of(column.type(), held);
        } catch (InexactValueException e) {
            trouble.add(
                    place,
                    entry.table.name() + "." + column.name() + " is "
                            + column.type().sqlName() + ", and " + e.clause() + ".");
            return null;
        } catch (ZabbetException e) {
            trouble.add(place, e); // a file that is not there
            return null;
        }
    }

    private static String referring(Table table) {
        List<String> references =
                table.references().stream().map(Reference::describe).toList();
        return references.isEmpty() ? "" : " Those of " + table.name() + " are " + String.join(", ", references) + ".";
    }

    private @Nullable Object fromClock(SeedEntry entry, Column column, SeedValue.FromClock from, SourceLocation place) {
        LocalDateTime base = LocalDateTime.ofInstant(now, ZoneOffset.UTC);
        try {
            if (column.type().kind() == Kind.DATE) {
                LocalDate date = base.toLocalDate();
                return from.amount() instanceof Period period
                        ? date.plus(period)
                        : base.plus(from.amount()).toLocalDate();
            }
            return base.plus(from.amount());
        } catch (DateTimeException e) {
            trouble.add(place, from + " on " + entry.table.name() + "." + column.name() + ": " + e.getMessage() + ".");
            return null;
        }
    }
}
