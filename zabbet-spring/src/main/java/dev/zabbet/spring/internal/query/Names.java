package dev.zabbet.spring.internal.query;

import java.util.Collection;
import java.util.List;
import net.sf.jsqlparser.schema.Table;

/** What names mean in a query, be they those of entities and properties or of tables and columns. */
public interface Names {
    /** Where the names of a FROM come from: an alias, and what it stands for one after another. */
    record Source(String alias, Elements elements) {}

    /** The objects or rows that an alias stands for. */
    @FunctionalInterface
    interface Elements {
        Collection<?> in(Scope scope);
    }

    /** Takes note of what stands in a FROM or JOIN. */
    Source source(Table table) throws UnsupportedQueryException;

    /** Returns what a name stands for, with its alias or without. */
    Value value(String name) throws UnsupportedQueryException;

    /** Returns the names in a query inside this one. */
    Names inner();

    /** Returns the columns behind a star; {@code alias} is empty for those of all. */
    List<Item> star(String alias) throws UnsupportedQueryException;

    /** Something that is selected, and what it is called; an empty name if nothing says it. */
    record Item(String name, Value value) {}
}
