package dev.zabbet.cli.diagram;

import dev.zabbet.cli.diagram.Drawing.Area;
import dev.zabbet.cli.diagram.Drawing.Box;
import dev.zabbet.cli.diagram.Drawing.Line;
import dev.zabbet.cli.diagram.Drawing.Way;
import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Schema;
import java.util.List;
import java.util.Locale;

/**
 * Writes a drawing as SVG. Each table is a group of class {@code table} with its name in {@code data-table}; each reference a
 * path of class {@code reference} with {@code data-from} and {@code data-to}.
 */
final class SvgDrawing {
    private static final String PAPER = "#fbfaf7";
    private static final String INK = "#26231d";
    private static final String FAINT = "#77736a";
    private static final String HEAD = "#2f4858";
    private static final String FORWARD = "#3f7d78";
    private static final String AGAINST = "#b3541e";

    private final StringBuilder svg = new StringBuilder();
    private final Schema schema;

    private SvgDrawing(Schema schema) {
        this.schema = schema;
    }

    static String of(Drawing drawing, Schema schema) {
        SvgDrawing writer = new SvgDrawing(schema);
        writer.write(drawing);
        return writer.svg.toString();
    }

    private void write(Drawing drawing) {
        add(
                "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"%s\" height=\"%s\" viewBox=\"0 0 %s %s\""
                        + " font-family=\"DejaVu Sans Mono, Menlo, Consolas, monospace\" font-size=\"11.5\">",
                number(drawing.width()), number(drawing.height()), number(drawing.width()), number(drawing.height()));
        add("<rect width=\"100%%\" height=\"100%%\" fill=\"%s\"/>", PAPER);
        boolean framed = drawing.areas().size() > 1;
        for (Area area : drawing.areas()) {
            if (framed) {
                frame(area);
            }
            area.ways().forEach(this::way);
            area.boxes().forEach(this::box);
        }
        add(
                "<text x=\"24\" y=\"%s\" fill=\"%s\">%s</text>\n</svg>",
                number(drawing.height() - 16), FAINT, escaped(legend(drawing, framed)));
    }

    private String legend(Drawing drawing, boolean framed) {
        StringBuilder legend = new StringBuilder(Words.count(schema.tables().size(), "table"));
        legend.append("; * key, ? may be null");
        if (drawing.areas().stream().flatMap(a -> a.ways().stream()).anyMatch(Way::against)) {
            legend.append(", dashed: against the storing order");
        }
        if (framed) {
            legend.append(", → a table in another frame");
        }
        if (drawing.shortened()) {
            legend.append("; only keys and references are shown");
        }
        return legend.toString();
    }

    private void frame(Area area) {
        add(
                "<rect class=\"frame\" x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\" rx=\"8\" fill=\"#f2efe8\" stroke=\"#ddd7c9\"/>"
                        + "<text x=\"%s\" y=\"%s\" font-size=\"15\" font-weight=\"bold\" fill=\"%s\">%s</text>",
                number(area.x()),
                number(area.y()),
                number(area.width()),
                number(area.height()),
                number(area.x() + 14),
                number(area.y() + 22),
                FAINT,
                escaped(area.title()));
    }

    private void way(Way way) {
        if (way.points().isEmpty()) {
            return;
        }
        String colour = way.against() ? AGAINST : FORWARD;
        double[] end = way.points().get(way.points().size() - 1);
        String target = schema.require(way.reference().target()).name();
        add(
                "<g class=\"reference\" data-from=\"%s\" data-to=\"%s\"><path d=\"%s\" fill=\"none\" stroke=\"%s\""
                        + " stroke-width=\"1.4\"%s><title>%s</title></path><circle cx=\"%s\" cy=\"%s\" r=\"3\" fill=\"%s\"/></g>",
                escaped(way.from().name()),
                escaped(target),
                path(way.points()),
                colour,
                way.against() ? " stroke-dasharray=\"5 4\"" : "",
                escaped(way.from().name() + ": " + way.reference().describe()),
                number(end[0]),
                number(end[1]),
                colour);
    }

    private static String path(List<double[]> points) {
        StringBuilder path = new StringBuilder();
        for (double[] point : points) {
            path.append(path.isEmpty() ? "M " : " L ")
                    .append(number(point[0]))
                    .append(' ')
                    .append(number(point[1]));
        }
        return path.toString();
    }

    private void box(Box box) {
        add("<g class=\"table\" data-table=\"%s\">", escaped(box.table().name()));
        add(
                "<rect x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\" rx=\"5\" fill=\"#ffffff\" stroke=\"#c9c3b4\"/>",
                number(box.x()), number(box.y()), number(box.width()), number(box.height()));
        add(
                "<path d=\"M %s %s h %s a 5 5 0 0 1 5 5 v 14 h -%s v -14 a 5 5 0 0 1 5 -5 z\" fill=\"%s\"/>"
                        + "<text x=\"%s\" y=\"%s\" fill=\"#ffffff\" font-weight=\"bold\" font-size=\"12.5\">%s</text>",
                number(box.x() + 5),
                number(box.y()),
                number(box.width() - 10),
                number(box.width()),
                HEAD,
                number(box.x() + 10),
                number(box.y() + 15),
                escaped(box.table().name()));
        double y = box.y() + Drawing.HEAD + Drawing.LINE / 2.0 + 7;
        for (Line line : box.lines()) {
            line(box, line, y);
            y += Drawing.LINE;
        }
        if (box.more() > 0) {
            add(
                    "<text x=\"%s\" y=\"%s\" fill=\"%s\">%s</text>",
                    number(box.x() + 10), number(y), FAINT, escaped(SchemaDiagram.more(box.more())));
        }
        add("</g>");
    }

    private void line(Box box, Line line, double y) {
        boolean key = box.table().keyColumns().contains(line.column().name());
        boolean refers = !box.table().referencesOf(line.column().name()).isEmpty();
        add(
                "<text x=\"%s\" y=\"%s\" fill=\"%s\"%s>%s</text><text x=\"%s\" y=\"%s\" fill=\"%s\" text-anchor=\"end\">%s</text>",
                number(box.x() + 10),
                number(y),
                refers ? "#2b6662" : INK,
                key ? " font-weight=\"bold\"" : "",
                escaped(line.left()),
                number(box.x() + box.width() - 10),
                number(y),
                line.elsewhere() ? "#2b6662" : FAINT,
                escaped(line.right()));
    }

    private void add(String format, Object... arguments) {
        svg.append(String.format(Locale.ROOT, format, arguments)).append('\n');
    }

    /** A length with one digit after the point at most. */
    private static String number(double length) {
        double tenths = Math.round(length * 10) / 10.0;
        return tenths == Math.rint(tenths) ? Long.toString((long) tenths) : Double.toString(tenths);
    }

    /** Characters that XML 1.0 has no way to write (section 2.2) are shown as escapes. */
    private static String xml(String text) {
        StringBuilder shown = new StringBuilder();
        text.codePoints().forEach(c -> {
            boolean allowed = (c >= 0x20 && c <= 0xD7FF) || (c >= 0xE000 && c <= 0xFFFD) || c >= 0x10000;
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
