package dev.zabbet.cli.diagram;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Table;
import java.util.List;

/**
 * A schema with every table's place and every reference's way, in pixels from the upper left corner.
 *
 * @param shortened whether tables show only the columns of keys and references
 */
record Drawing(double width, double height, List<Area> areas, boolean shortened) {
    static final int LINE = 18;
    static final int HEAD = 26;
    static final int FOOT = 8;

    /** Tables that belong together, in a frame of their own when there are several such frames. */
    record Area(String title, double x, double y, double width, double height, List<Box> boxes, List<Way> ways) {}

    /**
     * A table.
     *
     * @param lines its columns, as far as they are shown
     * @param more how many columns are not shown
     */
    record Box(Table table, List<Line> lines, int more, double x, double y, double width, double height) {
        static double heightOf(int lines, int more) {
            return HEAD + (lines + (more > 0 ? 1 : 0)) * LINE + FOOT;
        }

        Box at(double left, double top) {
            return new Box(table, lines, more, left, top, width, height);
        }
    }

    /**
     * A column in a table's box.
     *
     * @param right what stands at the right end: its type, or the table in another area that it refers to
     * @param elsewhere whether it refers to a table of another area, to which no line is drawn
     */
    record Line(Column column, String left, String right, boolean elsewhere) {}

    /**
     * The way of a reference from the referring table to the other.
     *
     * @param points corners, each x and y; the first at the referring table
     * @param against whether it runs against the order in which rows can be stored
     */
    record Way(Table from, Reference reference, List<double[]> points, boolean against) {
        Way movedBy(double x, double y) {
            return new Way(
                    from,
                    reference,
                    points.stream().map(p -> new double[] {p[0] + x, p[1] + y}).toList(),
                    against);
        }
    }
}
