package dev.zabbet.internal.mask;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import org.jspecify.annotations.Nullable;

/**
 * Where values stand: in a column, or in the documents of one.
 *
 * @param table the table
 * @param column the column
 * @param path the names that lead to the value inside of a JSON document, with dots between; empty for the column itself
 */
record Place(Table table, Column column, String path) {
    static Place of(Table table, Column column) {
        return new Place(table, column, "");
    }

    Place inside(String name) {
        return new Place(table, column, path.isEmpty() ? name : path + "." + name);
    }

    /** Returns the name that says what the value is. */
    String name() {
        return path.isEmpty() ? column.name() : path.substring(path.lastIndexOf('.') + 1);
    }

    /** Tells whether the value belongs to a person, as far as the names of what it stands in say. */
    boolean isBesidePersons() {
        if (PersonalWords.isAboutPersons(table.name())) {
            return true;
        }
        String around = path.contains(".") ? path.substring(0, path.lastIndexOf('.')) : "";
        return !path.isEmpty()
                && (PersonalWords.isAboutPersons(column.name())
                        || java.util.Arrays.stream(around.split("\\.")).anyMatch(PersonalWords::isAboutPersons));
    }

    @Override
    public String toString() {
        return table.name() + "." + column.name() + (path.isEmpty() ? "" : "." + path);
    }

    /** Tables and columns of one schema are told apart by their names; to compare all that they are would take long. */
    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof Place that
                && table.name().equals(that.table.name())
                && column.name().equals(that.column.name())
                && path.equals(that.path);
    }

    @Override
    public int hashCode() {
        return (table.name().hashCode() * 31 + column.name().hashCode()) * 31 + path.hashCode();
    }
}
