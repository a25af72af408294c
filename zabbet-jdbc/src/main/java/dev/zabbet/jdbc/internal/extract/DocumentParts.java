package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.DocumentPlaces;
import dev.zabbet.internal.document.PlainDocument;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.text.ColumnPattern;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What an extract says of places in documents: which are left out, and which hold the keys of other rows. */
final class DocumentParts {
    private final Map<String, List<RowPart>> leftOut = new HashMap<>();
    private final Map<String, List<Ref>> refs = new HashMap<>();

    /**
     * Where the documents of a table hold keys.
     *
     * @param place the place; names lead into every element of a list
     * @param target the table whose keys these are
     */
    record Ref(RowPart place, Table target) {
        Column key() {
            return target.requireColumn(target.keyColumns().get(0));
        }

        @Override
        public String toString() {
            return place.name();
        }
    }

    /**
     * A key that a document holds.
     *
     * @param ref by which reference
     * @param at the place in this document
     * @param value what stands there as the key's column has it; null if it can be no key
     */
    record Key(Ref ref, RowPart at, @Nullable Object value) {}

    /** @throws ZabbetException if a place is in no document, or refers to a table whose key has several columns */
    DocumentParts(Schema schema, Extract extract) {
        for (String pattern : extract.without()) {
            for (Table table : schema.tables()) {
                for (RowPart part : meant(table, pattern)) {
                    leftOut.computeIfAbsent(table.name(), t -> new ArrayList<>())
                            .add(part);
                }
            }
        }
        for (Extract.Ref ref : extract.refs()) {
            Table target = schema.require(ref.table());
            List<Table> tables = schema.tables().stream()
                    .filter(table -> !meant(table, ref.place()).isEmpty())
                    .toList();
            if (tables.isEmpty()) {
                Scope.requireColumn(schema, ref.place());
                throw new ZabbetException("'" + ref.place() + "' is no place in documents; references of columns are"
                        + " known from the foreign keys. Name one inside of a column of JSON: hut.amenities.wardenId.");
            }
            if (target.keyColumns().size() != 1) {
                throw new ZabbetException("'" + ref.place() + "' refers to " + target.name() + ", whose key has "
                        + target.keyColumns().size() + " columns: a place in a document holds one value.");
            }
            for (Table table : tables) {
                meant(table, ref.place()).forEach(part -> refs.computeIfAbsent(table.name(), t -> new ArrayList<>())
                        .add(new Ref(part, target)));
            }
        }
    }

    /** Returns the places in a table's documents that a text means: a column with its table, and the way inside. */
    static List<RowPart> meant(Table table, String text) {
        List<RowPart> parts = new ArrayList<>();
        for (Column column : table.columns()) {
            String name = table.name() + "." + column.name();
            for (int end = text.length() - 1; column.type().kind() == Kind.JSON && end > 0; end--) {
                boolean inside = text.charAt(end) == '.' || text.charAt(end) == '[';
                String before = text.substring(0, end);
                if (inside && ColumnPattern.isOne(before) && ColumnPattern.isColumn(before, name)) {
                    parts.add(new RowPart(column, DocumentPath.read(text.substring(end), text)));
                    break;
                }
            }
        }
        return parts;
    }

    /** Returns the references in the documents of a table. */
    List<Ref> refs(Table table) {
        return refs.getOrDefault(table.name(), List.of());
    }

    /** Returns a row as it was read, without what is left out of its documents. */
    Row without(Table table, Row row) {
        Row left = row;
        for (RowPart part : leftOut.getOrDefault(table.name(), List.of())) {
            Object text = row.has(part.column().name()) ? left.get(part.column().name()) : null;
            if (text != null) {
                Object document = PlainDocument.read(text);
                List<DocumentPath> places = places(document, part.path());
                Collections.reverse(places); // the positions before stay
                for (DocumentPath place : places) {
                    document = DocumentPlaces.without(document, place);
                }
                left = places.isEmpty() ? left : left.with(part.column().name(), PlainDocument.write(document));
            }
        }
        return left;
    }

    /** Returns the keys that a row's documents hold. */
    List<Key> keys(Table table, Row row) {
        List<Key> keys = new ArrayList<>();
        for (Ref ref : refs(table)) {
            Column column = ref.place().column();
            Object document = row.has(column.name()) ? PlainDocument.read(row.get(column.name())) : null;
            for (DocumentPath path : places(document, ref.place().path())) {
                Object written = path.in(document);
                if (written != null) {
                    keys.add(new Key(ref, new RowPart(column, path), canonical(ref.key(), written)));
                }
            }
        }
        return keys;
    }

    private static @Nullable Object canonical(Column key, Object written) {
        try {
            return CanonicalForm.of(key.type(), written);
        } catch (InexactValueException e) {
            return null;
        }
    }

    /** Returns the places in a document, from the front to the end. */
    private static List<DocumentPath> places(@Nullable Object document, DocumentPath path) {
        List<DocumentPath> found = new ArrayList<>();
        collect(document, path.steps(), DocumentPath.WHOLE, found);
        return found;
    }

    private static void collect(@Nullable Object value, List<Object> steps, DocumentPath at, List<DocumentPath> found) {
        if (steps.isEmpty()) {
            found.add(at);
            return;
        }
        Object step = steps.get(0);
        List<Object> rest = steps.subList(1, steps.size());
        if (value instanceof List<?> list) {
            boolean named = step instanceof String || step == DocumentPath.Any.NAME;
            for (int i = 0; i < list.size(); i++) {
                if (named || step == DocumentPath.Any.POSITION || step.equals(i)) {
                    collect(list.get(i), named ? steps : rest, at.at(i), found);
                }
            }
        } else if (value instanceof Map<?, ?> map) {
            map.forEach((name, part) -> {
                if (step == DocumentPath.Any.NAME || step.equals(name)) {
                    collect(part, rest, at.name((String) name), found);
                }
            });
        }
    }
}
