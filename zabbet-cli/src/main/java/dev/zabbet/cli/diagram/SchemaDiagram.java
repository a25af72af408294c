package dev.zabbet.cli.diagram;

import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import java.util.Locale;

/**
 * Draws the tables of a schema and their references. Tables stand to the right of those that they refer to; a reference that
 * runs against the order in which rows can be stored, in a circle, is dashed. A large schema is drawn in groups of tables that
 * belong together. The same schema always gives the same text. Thread-safe.
 */
public final class SchemaDiagram {
    private SchemaDiagram() {}

    /** Returns a picture as SVG 1.1, which fits two A3 pages beside each other. */
    public static String svg(Schema schema) {
        return SvgDrawing.of(Layout.of(schema), schema);
    }

    /** Returns one HTML page that needs nothing else: the picture, with search, zoom, and each table's columns and neighbours. */
    public static String html(Schema schema) {
        return HtmlPage.of(SvgDrawing.of(Layout.of(schema), schema), schema);
    }

    /** Returns the text of an entity diagram for Mermaid, the diagram language of Markdown viewers. */
    public static String mermaid(Schema schema) {
        return MermaidText.of(schema);
    }

    /** A column's type, short enough for a box. */
    static String type(Column column) {
        return Words.cut(column.type().sqlName().toLowerCase(Locale.ROOT), 24).replaceAll("… .*", "…");
    }

    /** What stands for columns that are not shown. */
    static String more(int columns) {
        return columns == 0 ? "" : Words.count(columns, "more column");
    }
}
