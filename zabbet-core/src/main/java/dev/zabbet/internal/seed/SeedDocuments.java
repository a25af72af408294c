package dev.zabbet.internal.seed;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.seed.SourceLocation;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Documents of a seed: what stands for itself is the column's value, and what is worked out a value of its own, under the name of its
 * place.
 */
final class SeedDocuments {
    private final Instant now;
    private final SeedProblems trouble;

    SeedDocuments(Instant now, SeedProblems trouble) {
        this.now = now;
        this.trouble = trouble;
    }

    /** Puts a value, or the parts of a document, among those of an entry. */
    void put(SeedEntry entry, RowPart part, @Nullable Object value, SourceLocation place) {
        Map<DocumentPath, SeedValue> parts = new LinkedHashMap<>();
        Object written = value instanceof SeedValue.Nested nested ? nested.value() : value;
        Object document = spread(written, part.path(), parts);
        if (part.isColumn()) {
            entry.values.put(part.name(), PlainDocument.write(document));
        } else if (!(written instanceof SeedValue)) {
            entry.values.put(part.name(), document);
        }
        parts.forEach((path, said) -> {
            RowPart at = new RowPart(part.column(), path);
            entry.values.put(at.name(), workedOut(entry, at, said, place));
        });
    }

    /** Takes apart what is worked out, and returns the rest. */
    private static @Nullable Object spread(
            @Nullable Object value, DocumentPath at, Map<DocumentPath, SeedValue> parts) {
        if (value instanceof SeedValue said) {
            parts.put(at, said);
            return null;
        }
        if (value instanceof Map<?, ?> map) {
            Map<String, @Nullable Object> rest = new LinkedHashMap<>();
            map.forEach((name, part) -> rest.put((String) name, spread(part, at.name((String) name), parts)));
            return rest;
        }
        if (value instanceof List<?> list) {
            List<@Nullable Object> rest = new ArrayList<>();
            for (int i = 0; i < list.size(); i++) {
                rest.add(spread(list.get(i), at.at(i), parts));
            }
            return rest;
        }
        return value;
    }

    private @Nullable Object workedOut(SeedEntry entry, RowPart at, SeedValue said, SourceLocation place) {
        if (said instanceof SeedValue.FromClock from) {
            return LocalDateTime.ofInstant(now, ZoneOffset.UTC)
                    .plus(from.amount())
                    .toInstant(ZoneOffset.UTC)
                    .toString();
        }
        if (said instanceof SeedValue.InFile file) {
            try {
                return Seed.text(file.where());
            } catch (ZabbetException e) {
                trouble.add(place, e);
                return null;
            }
        }
        if (said instanceof SeedValue.InTurn inTurn) {
            return new SeedValue.InTurn(inTurn.values().stream()
                    .<@Nullable Object>map(
                            one -> one instanceof SeedValue value ? workedOut(entry, at, value, place) : one)
                    .toList());
        }
        if (said instanceof SeedValue.Nested nested) { // one of several in turn
            if (nested.isWorkedOut()) {
                trouble.add(
                        place,
                        entry.table.name() + "." + at.name()
                                + ": what is worked out inside of documents that come in turn stands at"
                                + " a place of its own: \"" + at.name() + ".place\": {inTurn: […]}.");
                return null;
            }
            return nested.value();
        }
        if (said instanceof SeedValue.Stored || said instanceof SeedValue.AnyStored) {
            trouble.add(
                    place,
                    entry.table.name() + "." + at.name()
                            + " is a place in a document, of which no schema says where it refers"
                            + " to: {stored: …} cannot stand there.");
            return null;
        }
        if (said instanceof SeedValue.RowRef || said instanceof SeedValue.Made) {
            return said;
        }
        throw new IllegalStateException("No value of " + said);
    }
}
