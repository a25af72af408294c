package dev.zabbet.internal.seed;

import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.plan.StoredDocuments;
import dev.zabbet.internal.text.Nearest;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedValue;
import dev.zabbet.seed.SourceLocation;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Finds the rows that the references of a seed lead to, and their keys. */
final class SeedReferences {
    static final int MOST_LOOKED_UP = 2000; // rows whose keys are looked up in the store before; it refuses the rest

    private final Seeding seeding;

    SeedReferences(Seeding seeding) {
        this.seeding = seeding;
    }

    /** Puts keys in the place of labels; plans the rows that the labels stand for where their keys are not known. */
    boolean resolve(SeedEntry entry) {
        for (String column : List.copyOf(entry.values.keySet())) {
            Object value = entry.values.get(column);
            RowPart part = RowPart.of(entry.table, column);
            if (!part.isColumn()) {
                if (!setInside(entry, part, value)) {
                    return false;
                }
            } else if (value instanceof SeedValue.RowRef ref) {
                if (!setReference(entry, column, ref)) {
                    return false;
                }
            } else if (value instanceof SeedValue.Stored stored) {
                if (!setStored(entry, column, stored)) {
                    return false;
                }
            } else if (value instanceof SeedValue.InTurn inTurn) {
                List<@Nullable Object> values = new ArrayList<>();
                for (Object one : inTurn.values()) {
                    Optional<Target> target =
                            one instanceof SeedValue.RowRef ref ? target(entry, column, ref.label()) : Optional.empty();
                    if (one instanceof SeedValue.RowRef && target.isEmpty()) {
                        return false;
                    }
                    values.add(target.isPresent() ? target.get().value(column) : one);
                }
                entry.values.put(column, new SeedValue.InTurn(values));
            }
        }
        return true;
    }

    /** Puts the key of a labelled row at a place in a document. */
    private boolean setInside(SeedEntry entry, RowPart part, @Nullable Object value) {
        if (value instanceof SeedValue.RowRef ref) {
            Optional<Held> key = keyInside(entry, part, ref.label());
            key.ifPresent(held -> entry.values.put(part.name(), held.value()));
            return key.isPresent();
        }
        if (value instanceof SeedValue.InTurn inTurn) {
            List<@Nullable Object> values = new ArrayList<>();
            for (Object one : inTurn.values()) {
                if (one instanceof SeedValue.RowRef ref) {
                    Optional<Held> key = keyInside(entry, part, ref.label());
                    if (key.isEmpty()) {
                        return false;
                    }
                    values.add(key.get().value());
                } else {
                    values.add(one);
                }
            }
            entry.values.put(part.name(), new SeedValue.InTurn(values));
        }
        return true;
    }

    private record Held(@Nullable Object value) {}

    /** Returns the key of the one row that has a label, or that has it in the table to which the place is said to refer. */
    private Optional<Held> keyInside(SeedEntry entry, RowPart part, String label) {
        SourceLocation place = entry.row.placeOf(part.column().name());
        List<Table> tables = StoredDocuments.of(seeding.store)
                .of(entry.table, part.column())
                .flatMap(documents -> documents.references().stream()
                        .filter(reference -> reference.path().covers(part.path()))
                        .findFirst())
                .map(reference -> List.of(seeding.schema.require(reference.table())))
                .orElse(seeding.schema.tables());
        List<Table> labelled = tables.stream()
                .filter(table -> table.keyColumns().size() == 1
                        && (seeding.labelled.containsKey(Seeding.key(table, label))
                                || seeding.store.labelled(table, label).isPresent()))
                .toList();
        if (labelled.size() != 1) {
            seeding.trouble.add(
                    place,
                    entry.table.name() + "." + part.name() + " is a place in a document, and "
                            + (labelled.isEmpty()
                                    ? "no row with a key of one column is labelled '" + label + "'."
                                    : "'" + label + "' labels rows of several tables: "
                                            + String.join(
                                                    ", ",
                                                    labelled.stream()
                                                            .map(Table::name)
                                                            .toList())
                                            + ". Give the key itself."));
            return Optional.empty();
        }
        Table table = labelled.get(0);
        String column = table.keyColumns().get(0);
        SeedEntry other = seeding.labelled.get(Seeding.key(table, label));
        if (other == null) {
            return seeding.store.labelled(table, label).map(row -> new Held(row.get(column)));
        }
        return isKnown(other, column, entry, place)
                ? Optional.of(new Held(other.values.get(column)))
                : Optional.empty();
    }

    private boolean setReference(SeedEntry entry, String column, SeedValue.RowRef ref) {
        Optional<Target> target = target(entry, column, ref.label());
        if (target.isEmpty()) {
            return false;
        }
        for (String own : target.get().reference().columns()) {
            Object known = entry.values.get(own);
            boolean open = own.equals(column) || !entry.values.containsKey(own) || known instanceof SeedValue.RowRef;
            if (open && (own.equals(column) || !(known instanceof SeedValue.RowRef))) {
                entry.values.put(own, target.get().value(own));
            }
        }
        return true;
    }

    /** Looks a row up by a unique key, and sets the columns of the reference to it. */
    private boolean setStored(SeedEntry entry, String column, SeedValue.Stored stored) {
        SourceLocation place = entry.row.placeOf(column);
        List<Reference> references = new ArrayList<>(entry.table.referencesOf(column));
        references.sort(java.util.Comparator.comparingInt(r -> r.columns().size()));
        List<String> trouble = new ArrayList<>();
        for (Reference reference : references) {
            Table table = seeding.schema.require(reference.target());
            Optional<Row> row = StoredRow.find(seeding.store, table, stored.key(), trouble);
            if (row.isPresent()) {
                for (int i = 0; i < reference.columns().size(); i++) {
                    String own = reference.columns().get(i);
                    if (own.equals(column) || !entry.values.containsKey(own)) {
                        entry.values.put(
                                own, row.get().get(reference.targetColumns().get(i)));
                    }
                }
                return true;
            }
        }
        trouble.forEach(what -> seeding.trouble.add(place, what));
        return false;
    }

    /** The row that a label stands for in a reference. */
    private record Target(Reference reference, Map<String, @Nullable Object> key) {
        @Nullable
        Object value(String column) {
            return key.get(column);
        }
    }

    private Optional<Target> target(SeedEntry entry, String column, String label) {
        List<Reference> references = new ArrayList<>(entry.table.referencesOf(column));
        references.sort(java.util.Comparator.comparingInt(r -> r.columns().size()));
        SourceLocation place = entry.row.placeOf(column);
        for (Reference reference : references) {
            Table table = seeding.schema.require(reference.target());
            SeedEntry other = seeding.labelled.get(Seeding.key(table, label));
            Optional<Row> stored = other == null ? seeding.store.labelled(table, label) : Optional.empty();
            if (other == null && stored.isEmpty()) {
                continue;
            }
            Map<String, @Nullable Object> key = new LinkedHashMap<>();
            for (int i = 0; i < reference.columns().size(); i++) {
                String of = reference.targetColumns().get(i);
                if (stored.isPresent()) {
                    key.put(reference.columns().get(i), stored.get().get(of));
                } else if (other != null) {
                    if (!isKnown(other, of, entry, place)) {
                        return Optional.empty();
                    }
                    key.put(reference.columns().get(i), other.values.get(of));
                }
            }
            return Optional.of(new Target(reference, key));
        }
        if (!references.isEmpty()) {
            List<String> tables =
                    references.stream().map(Reference::target).distinct().toList();
            List<String> known = seeding.labelled.values().stream()
                    .filter(e -> tables.contains(e.table.name()))
                    .map(e -> e.row.label().orElseThrow())
                    .toList();
            String near = Nearest.to(label, known)
                    .map(n -> " Did you mean '" + n + "'?")
                    .orElse("");
            seeding.trouble.add(
                    place,
                    "There is no row of " + String.join(" or ", tables) + " labelled '" + label + "'." + near
                            + (known.isEmpty() ? " None is labelled." : " Known: " + String.join(", ", known) + "."));
        }
        return Optional.empty();
    }

    /** Makes sure that a column's value of a labelled row is known; plans the row if it has to be made. */
    private boolean isKnown(SeedEntry other, String column, SeedEntry from, SourceLocation place) {
        Object value = other.values.get(column);
        if (other.values.containsKey(column) && !(value instanceof SeedValue)) {
            return true;
        }
        if (other.wrong) {
            return false; // told already
        }
        if (!seeding.inWork.add(other)) {
            seeding.trouble.add(
                    place,
                    "The rows '" + other.row.label().orElse("?") + "' and '"
                            + from.row.label().orElse(from.table.name())
                            + "' refer to each other, and neither's key is known."
                            + " Give one of them its key.");
            return false;
        }
        try {
            if (!resolve(other)) {
                return false;
            }
            if (!(other.values.get(column) instanceof SeedValue) && other.values.containsKey(column)) {
                return true;
            }
            seeding.plan(List.of(other));
            return other.values.containsKey(column);
        } finally {
            seeding.inWork.remove(other);
        }
    }
}
