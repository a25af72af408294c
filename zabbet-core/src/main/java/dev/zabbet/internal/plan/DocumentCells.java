package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.document.RowPart;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.type.Proxies;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** What a factory says of places in the documents of its columns, brought together for each column. */
final class DocumentCells {
    private DocumentCells() {}

    /**
     * Returns the place that a name means, {@code amenities.kitchen.stoves} for example; empty if it means a column or property, or
     * nothing.
     *
     * @throws ZabbetException if the path cannot be read, or means several places
     */
    static Optional<RowPart> place(Node node, String name) {
        if (node.position(name) >= 0) {
            return Optional.empty();
        }
        for (int end = name.length() - 1; end > 0; end--) {
            int at = name.charAt(end) == '.' || name.charAt(end) == '[' ? node.position(name.substring(0, end)) : -1;
            Column column = at < 0 ? null : node.table.columns().get(at);
            if (column != null && column.type().kind() == Kind.JSON) {
                DocumentPath path = DocumentPath.read(name.substring(end), name);
                if (path.isPattern()) {
                    throw new ZabbetException("The factory of " + node.table.name() + " says something of " + name
                            + ": a star means several places. Name one, such as [0].");
                }
                return Optional.of(new RowPart(column, path));
            }
        }
        return Optional.empty();
    }

    /** Returns how the documents of a column are made, if a setting says that. */
    static Optional<DocumentRecipe> said(Column column, Setting setting) {
        return column.type().kind() == Kind.JSON && setting instanceof Setting.Invented invented
                ? DocumentRecipe.of(invented.how())
                : Optional.empty();
    }

    /**
     * Adds what is said of a place to what is known of the column.
     *
     * @param parents makes the rows that a place refers to: a factory, and whether one serves all rows
     * @param base makes the document where nothing is said of the column
     */
    static Cell with(
            RowPart place,
            Setting setting,
            @Nullable Cell before,
            BiFunction<Recipe<?>, Boolean, Node> parents,
            Supplier<Cell> base) {
        List<Cell.Inside.Part> parts = new ArrayList<>();
        Cell begin;
        if (before instanceof Cell.Inside inside) {
            inside.parts().stream()
                    .filter(part -> !place.path().covers(part.path()))
                    .forEach(parts::add);
            begin = inside.base();
        } else {
            begin = before == null ? base.get() : before;
        }
        parts.add(new Cell.Inside.Part(place.path(), cell(place, setting, parents)));
        return new Cell.Inside(begin, parts);
    }

    private static Cell cell(RowPart place, Setting setting, BiFunction<Recipe<?>, Boolean, Node> parents) {
        if (setting instanceof Setting.Parent parent) {
            return link(place, parents.apply(parent.recipe(), false), 1);
        }
        if (setting instanceof Setting.SharedParent shared) {
            return link(place, parents.apply(shared.recipe(), true), Integer.MAX_VALUE);
        }
        if (setting instanceof Setting.Parents given) {
            return new Cell.Set(new Setting.InTurn(given.rows().stream()
                    .<@Nullable Object>map(parent -> key(place, parent))
                    .toList()));
        }
        if (setting instanceof Setting.StoredParents || setting instanceof Setting.MadeAnyway) {
            throw new ZabbetException(
                    place.name() + " is a place in a document, of which no schema says where it refers to."
                            + " Give it a factory, an object or a key.");
        }
        return new Cell.Set(setting);
    }

    private static Cell link(RowPart place, Node parent, int divisor) {
        return new Cell.Link(parent, parent.table.requirePosition(onlyKey(place, parent.table)), divisor);
    }

    private static String onlyKey(RowPart place, Table table) {
        if (table.keyColumns().size() != 1) {
            throw new ZabbetException(place.name() + " holds one value, and the key of " + table.name() + " has "
                    + table.keyColumns().size() + " columns. Say of each place in the document what it holds.");
        }
        return table.keyColumns().get(0);
    }

    /** Returns what a document holds to refer to an object: its key. */
    @SuppressWarnings("unchecked")
    private static @Nullable Object key(RowPart place, Object parent) {
        if (parent instanceof Row) {
            throw new ZabbetException(
                    place.name() + " is a place in a document, and a row does not know its table: give"
                            + " its key, row.get(\"id\") for example.");
        }
        if (JavaValue.kindOf(parent.getClass()) != Kind.OTHER) {
            return parent;
        }
        if (Proxies.isProxy(parent)) {
            return Proxies.identifierOrSelf(parent);
        }
        TypeShape<Object> shape = TypeShape.of((Class<Object>) parent.getClass());
        return shape.find("id")
                .map(key -> shape.read(parent, key))
                .orElseThrow(() -> new ZabbetException(place.name() + " is a place in a document, and "
                        + parent.getClass().getSimpleName() + " has no property id that it could hold."));
    }
}
