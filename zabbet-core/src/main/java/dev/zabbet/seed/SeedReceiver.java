package dev.zabbet.seed;

import dev.zabbet.row.Row;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.List;
import java.util.Optional;
import java.util.function.BiPredicate;

/** Stores the rows of a seed by itself, with keys of its own: the API of the application, for example. */
@FunctionalInterface
public interface SeedReceiver {
    /**
     * A reference to another row that is delivered, too.
     *
     * @param reference the reference; its columns hold values that only stand for the key to come
     * @param row which of the rows it leads to, from 0
     */
    record Link(Reference reference, int row) {}

    /**
     * A row that is delivered.
     *
     * @param table its table
     * @param label what the seed calls it; empty for others, and for parents that were made
     * @param place where the seed says it, or the row that needs it as a parent
     * @param values its values, each in the form of its column; keys that the database gives only stand for those to come
     * @param links its references to rows that are delivered, too; all others lead to rows that are stored already
     */
    record Item(Table table, Optional<String> label, SourceLocation place, Row values, List<Link> links) {
        /**
         * Copies the links.
         *
         * @param table its table
         * @param label what the seed calls it
         * @param place where the seed says it
         * @param values its values
         * @param links its references to rows that are delivered, too
         */
        public Item {
            links = List.copyOf(links);
        }

        /** {@return what messages call it} */
        public String name() {
            return table.name() + label.map(text -> " '" + text + "'").orElse("");
        }
    }

    /**
     * Stores the rows, all or as far as can be none.
     *
     * @param schema the tables
     * @param rows the rows; one may refer to others that come after it
     * @param isStored tells whether a table holds a row with a key; to be asked on the calling thread
     * @return the key that each has got, in the same order; without columns where that is not known
     * @throws dev.zabbet.error.ZabbetException if one is refused; the message says which, why, and what remains
     */
    List<Row> receive(Schema schema, List<Item> rows, BiPredicate<Table, Row> isStored);
}
