package dev.zabbet.files;

import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/**
 * Draws the tables of a schema and their references: as SVG, or as text for Mermaid (the diagram language of Markdown
 * viewers). Tables stand to the right of those that they refer to, in the order in which rows can be stored; a reference
 * that runs against it, in a circle, is dashed. Thread-safe.
 */
public final class SchemaDiagram {
    private static final int LINE = 18;
    private static final int HEAD = 26;
    private static final double CHARACTER = 6.9;
    private static final int GAP_X = 74;
    private static final int GAP_Y = 22;
    private static final int MARGIN = 24;
    private static final int LANE = 7;
    private static final int MOST_LANES = 16;
    private static final int TALLEST = 900; // a layer that would be taller gets another column of boxes

    private final Schema schema;
    private final Map<String, Box> boxes = new LinkedHashMap<>();
    private int top = MARGIN;
    private int lanes;
    private int width;
    private int height;

    /** A table's place. */
    private record Box(Table table, List<Column> shown, int x, int y, int w, int h) {
        int row(String column) {
            for (int i = 0; i < shown.size(); i++) {
                if (shown.get(i).name().equals(column)) {
                    return y + HEAD + i * LINE + LINE / 2 + 3;
                }
            }
            return y + HEAD / 2;
        }
    }

    private SchemaDiagram(Schema schema) {
        this.schema = schema;
    }

    /** Returns a picture as SVG 1.1. */
    public static String svg(Schema schema) {
        SchemaDiagram diagram = new SchemaDiagram(Words.notNull(schema, "schema", "SchemaDiagram.svg"));
        diagram.place();
        return diagram.draw();
    }

    /** Returns the text of an entity diagram for Mermaid. */
    public static String mermaid(Schema schema) {
        StringBuilder text = new StringBuilder("erDiagram\n");
        for (Table table : schema.storingOrder().tables()) {
            text.append("    ").append(word(table.name())).append(" {\n");
            for (Column column : table.columns()) {
                text.append("        ")
                        .append(word(column.type().sqlName()))
                        .append(' ')
                        .append(word(column.name()));
                List<String> marks = new ArrayList<>();
                if (table.keyColumns().contains(column.name())) {
                    marks.add("PK");
                }
                if (!table.referencesOf(column.name()).isEmpty()) {
                    marks.add("FK");
                }
                if (table.uniques().stream().anyMatch(u -> u.columns().equals(List.of(column.name())))) {
                    marks.add("UK");
                }
                text.append(marks.isEmpty() ? "" : " " + String.join(", ", marks))
                        .append('\n');
            }
            text.append("    }\n");
        }
        for (Table table : schema.storingOrder().tables()) {
            for (Reference reference : table.references()) {
                boolean optional = reference.columns().stream()
                        .anyMatch(c -> table.requireColumn(c).nullable());
                text.append("    ")
                        .append(word(reference.target()))
                        .append(optional ? " |o" : " ||")
                        .append("--o{ ")
                        .append(word(table.name()))
                        .append(" : \"")
                        .append(String.join(", ", reference.columns()).replace('"', '\''))
                        .append("\"\n");
            }
        }
        return text.toString();
    }

    private static String word(String name) {
        String word = name.replaceAll("[^\\p{L}\\p{N}_]+", "_").replaceAll("_+$", "");
        return word.isEmpty() || Character.isDigit(word.charAt(0)) ? "_" + word : word;
    }

    /** Each table goes one layer to the right of the rightmost that it refers to. */
    private void place() {
        Map<String, Integer> layers = new LinkedHashMap<>();
        List<List<Table>> columns = new ArrayList<>();
        for (Table table : schema.storingOrder().tables()) {
            int layer = 0;
            for (Reference reference : table.references()) {
                Integer target = layers.get(reference.target());
                if (target != null && !schema.storingOrder().runsAgainst(table, reference)) {
                    layer = Math.max(layer, target + 1);
                }
            }
            layers.put(table.name(), layer);
            while (columns.size() <= layer) {
                columns.add(new ArrayList<>());
            }
            columns.get(layer).add(table);
        }
        later(columns, layers);
        long lanes = schema.tables().stream()
                .flatMap(t -> t.references().stream().filter(r -> isLong(t, r, layers)))
                .count();
        top = MARGIN + LANE * (int) Math.min(lanes, MOST_LANES);
        int x = MARGIN;
        for (List<Table> layer : columns) {
            x = placeLayer(layer, x);
        }
        width = x - GAP_X + MARGIN;
        height = boxes.values().stream().mapToInt(b -> b.y() + b.h()).max().orElse(0) + MARGIN + 22;
    }

    /** A table that refers to none stands just before the first that refers to it. */
    private void later(List<List<Table>> columns, Map<String, Integer> layers) {
        for (Table table : schema.tables()) {
            int first = schema.tables().stream()
                    .filter(t -> t != table
                            && t.references().stream()
                                    .anyMatch(r -> r.target().equals(table.name())
                                            && !schema.storingOrder().runsAgainst(t, r)))
                    .mapToInt(t -> layers.getOrDefault(t.name(), 0))
                    .min()
                    .orElse(0);
            boolean refers =
                    table.references().stream().anyMatch(r -> !r.target().equals(table.name()));
            if (!refers && first - 1 > layers.getOrDefault(table.name(), 0)) {
                columns.get(layers.getOrDefault(table.name(), 0)).remove(table);
                columns.get(first - 1).add(table);
                layers.put(table.name(), first - 1);
            }
        }
    }

    /** A reference over more than one layer goes above the boxes between. */
    private boolean isLong(Table table, Reference reference, Map<String, Integer> layers) {
        return layers.getOrDefault(table.name(), 0) - layers.getOrDefault(reference.target(), 0) > 1;
    }

    private int placeLayer(List<Table> layer, int from) {
        int x = from;
        int y = top;
        int widest = 0;
        for (Table table : layer) {
            List<Column> shown = table.columns();
            int w = (int) (title(table).length() * CHARACTER * 1.08) + 24;
            for (Column column : shown) {
                w = Math.max(w, (int) ((column.name().length() + type(column).length() + 3) * CHARACTER) + 26);
            }
            int h = HEAD + shown.size() * LINE + 8;
            if (y > top && y + h > TALLEST) {
                x += widest + GAP_X / 2;
                y = top;
                widest = 0;
            }
            boxes.put(table.name(), new Box(table, shown, x, y, w, h));
            y += h + GAP_Y;
            widest = Math.max(widest, w);
        }
        return x + widest + GAP_X;
    }

    private static String title(Table table) {
        return table.name();
    }

    private static String type(Column column) {
        return Words.cut(column.type().sqlName().toLowerCase(Locale.ROOT), 24).replaceAll("… .*", "…");
    }

    private String draw() {
        StringBuilder svg = new StringBuilder();
        svg.append(String.format(
                Locale.ROOT,
                "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"%d\" height=\"%d\" viewBox=\"0 0 %d %d\""
                        + " font-family=\"DejaVu Sans Mono, Menlo, Consolas, monospace\" font-size=\"11.5\">%n",
                width,
                height,
                width,
                height));
        svg.append("<rect width=\"100%\" height=\"100%\" fill=\"#fbfaf7\"/>\n");
        for (Box box : boxes.values()) {
            for (Reference reference : box.table().references()) {
                edge(svg, box, reference);
            }
        }
        boxes.values().forEach(box -> box(svg, box));
        svg.append(String.format(
                Locale.ROOT,
                "<text x=\"%d\" y=\"%d\" fill=\"#77736a\">%s; * key, ? may be null; a dashed line runs against the storing"
                        + " order</text>%n</svg>%n",
                MARGIN,
                height - 14,
                escaped(Words.count(schema.tables().size(), "table"))));
        return svg.toString();
    }

    private void edge(StringBuilder svg, Box box, Reference reference) {
        Box target = boxes.get(schema.require(reference.target()).name());
        if (target == null) {
            return;
        }
        boolean against = schema.storingOrder().runsAgainst(box.table(), reference);
        int y1 = box.row(reference.columns().get(reference.columns().size() - 1));
        int y2 = target.row(reference.targetColumns().get(0));
        String path;
        if (target == box) {
            int x = box.x() + box.w();
            path = String.format(Locale.ROOT, "M %d %d C %d %d %d %d %d %d", x, y1, x + 34, y1, x + 34, y2, x, y2);
        } else if (target.x() + target.w() < box.x()) {
            int x1 = box.x();
            int x2 = target.x() + target.w();
            boolean between = boxes.values().stream().anyMatch(b -> b.x() > x2 && b.x() + b.w() < x1);
            if (between) {
                int lane = MARGIN / 2 + LANE * (lanes++ % MOST_LANES);
                path = String.format(
                        Locale.ROOT,
                        "M %d %d C %d %d %d %d %d %d H %d C %d %d %d %d %d %d",
                        x1,
                        y1,
                        x1 - 30,
                        y1,
                        x1 - 12,
                        lane,
                        x1 - 40,
                        lane,
                        x2 + 40,
                        x2 + 12,
                        lane,
                        x2 + 30,
                        y2,
                        x2,
                        y2);
                stroke(svg, box, reference, path, y2, against);
                return;
            }
            int bend = Math.max(26, (x1 - x2) / 2);
            path = String.format(
                    Locale.ROOT, "M %d %d C %d %d %d %d %d %d", x1, y1, x1 - bend, y1, x2 + bend, y2, x2, y2);
        } else {
            int x1 = box.x() + box.w();
            int x2 = target.x() + target.w() < x1 ? target.x() + target.w() : target.x();
            path = String.format(
                    Locale.ROOT,
                    "M %d %d C %d %d %d %d %d %d",
                    x1,
                    y1,
                    x1 + 40,
                    y1,
                    x2 + (x2 == target.x() ? -40 : 40),
                    y2,
                    x2,
                    y2);
        }
        stroke(svg, box, reference, path, y2, against);
    }

    private static void stroke(StringBuilder svg, Box box, Reference reference, String path, int y2, boolean against) {
        svg.append(String.format(
                Locale.ROOT,
                "<path d=\"%s\" fill=\"none\" stroke=\"%s\" stroke-width=\"1.4\"%s><title>%s</title></path>%n",
                path,
                against ? "#b3541e" : "#3f7d78",
                against ? " stroke-dasharray=\"5 4\"" : "",
                escaped(box.table().name() + ": " + reference.describe())));
        svg.append(String.format(
                Locale.ROOT,
                "<circle cx=\"%s\" cy=\"%d\" r=\"3\" fill=\"%s\"/>%n",
                path.replaceAll(".* (\\d+) \\d+$", "$1"),
                y2,
                against ? "#b3541e" : "#3f7d78"));
    }

    private static void box(StringBuilder svg, Box box) {
        svg.append(String.format(
                Locale.ROOT,
                "<rect x=\"%d\" y=\"%d\" width=\"%d\" height=\"%d\" rx=\"5\" fill=\"#ffffff\" stroke=\"#c9c3b4\"/>%n"
                        + "<path d=\"M %d %d h %d a 5 5 0 0 1 5 5 v %d h -%d v -%d a 5 5 0 0 1 5 -5 z\" fill=\"#2f4858\"/>%n"
                        + "<text x=\"%d\" y=\"%d\" fill=\"#ffffff\" font-weight=\"bold\" font-size=\"12.5\">%s</text>%n",
                box.x(),
                box.y(),
                box.w(),
                box.h(),
                box.x() + 5,
                box.y(),
                box.w() - 10,
                HEAD - 5 - 2,
                box.w(),
                HEAD - 5 - 2,
                box.x() + 10,
                box.y() + 17,
                escaped(title(box.table()))));
        int y = box.y() + HEAD + LINE / 2 + 7;
        for (Column column : box.shown()) {
            boolean key = box.table().keyColumns().contains(column.name());
            boolean refers = !box.table().referencesOf(column.name()).isEmpty();
            svg.append(String.format(
                    Locale.ROOT,
                    "<text x=\"%d\" y=\"%d\" fill=\"%s\"%s>%s</text>"
                            + "<text x=\"%d\" y=\"%d\" fill=\"#77736a\" text-anchor=\"end\">%s</text>%n",
                    box.x() + 10,
                    y,
                    refers ? "#2b6662" : "#26231d",
                    key ? " font-weight=\"bold\"" : "",
                    escaped(column.name() + (key ? " *" : column.nullable() ? " ?" : "")),
                    box.x() + box.w() - 10,
                    y,
                    escaped(type(column))));
            y += LINE;
        }
    }

    /** Characters that XML 1.0 has no way to write (section 2.2) are shown as escapes. */
    private static String xml(String text) {
        StringBuilder shown = new StringBuilder();
        text.codePoints().forEach(c -> {
            boolean allowed = c >= 0x20 && c <= 0xD7FF || c >= 0xE000 && c <= 0xFFFD || c >= 0x10000;
            if (allowed && !Character.isISOControl(c)) {
                shown.appendCodePoint(c);
            } else {
                shown.append(String.format("\\u%04x", c));
            }
        });
        return shown.toString();
    }

    private static String escaped(String text) {
        return xml(text)
                .replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace(">", "&gt;")
                .replace("\"", "&quot;");
    }
}
