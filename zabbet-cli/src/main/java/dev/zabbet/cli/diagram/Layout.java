package dev.zabbet.cli.diagram;

import dev.zabbet.cli.diagram.Clusters.Cluster;
import dev.zabbet.cli.diagram.Drawing.Area;
import dev.zabbet.cli.diagram.Drawing.Box;
import dev.zabbet.cli.diagram.Drawing.Line;
import dev.zabbet.cli.diagram.Drawing.Way;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.eclipse.elk.alg.layered.options.LayeredMetaDataProvider;
import org.eclipse.elk.alg.layered.options.LayeredOptions;
import org.eclipse.elk.alg.layered.options.LayeringStrategy;
import org.eclipse.elk.alg.layered.options.NodePlacementStrategy;
import org.eclipse.elk.core.RecursiveGraphLayoutEngine;
import org.eclipse.elk.core.data.LayoutMetaDataService;
import org.eclipse.elk.core.math.ElkPadding;
import org.eclipse.elk.core.options.BoxLayouterOptions;
import org.eclipse.elk.core.options.CoreOptions;
import org.eclipse.elk.core.options.Direction;
import org.eclipse.elk.core.options.EdgeRouting;
import org.eclipse.elk.core.options.PortConstraints;
import org.eclipse.elk.core.options.PortSide;
import org.eclipse.elk.core.util.BasicProgressMonitor;
import org.eclipse.elk.graph.ElkEdge;
import org.eclipse.elk.graph.ElkEdgeSection;
import org.eclipse.elk.graph.ElkNode;
import org.eclipse.elk.graph.ElkPort;
import org.eclipse.elk.graph.util.ElkGraphUtil;

/**
 * Finds the places. Within a group of tables, a table stands to the right of those that it refers to, and references go around
 * the boxes in right angles (a layered layout after Sugiyama, by the Eclipse Layout Kernel). The groups are packed side by side
 * into the shape of two sheets of paper; a reference from one group to another is a word in its column's line, since lines
 * across the whole sheet cannot be followed by the eye.
 */
@SuppressWarnings("ReferenceEquality") // a cluster is itself only
final class Layout {
    /** From this number of tables on, boxes show the columns of keys and references only. */
    private static final int SHORTENED = 60;

    /** Two A3 pages beside each other: 2 x 297 mm by 420 mm. */
    private static final double SHEETS = 594.0 / 420;

    private static final double CHARACTER = 6.95;
    private static final int MARGIN = 24;
    private static final int TITLE = 26;
    private static final int LEGEND = 26;
    private static final int FIRST_COLUMNS = 2; // of a table without keys and references

    private final Schema schema;
    private final boolean shortened;
    private final boolean framed;
    private final Map<String, Cluster> clusterOf = new LinkedHashMap<>();

    private Layout(Schema schema, List<Cluster> clusters) {
        this.schema = schema;
        this.shortened = schema.tables().size() > SHORTENED;
        this.framed = clusters.size() > 1;
        clusters.forEach(cluster -> cluster.tables().forEach(table -> clusterOf.put(table.name(), cluster)));
    }

    static Drawing of(Schema schema) {
        LayoutMetaDataService.getInstance().registerLayoutMetaDataProviders(new LayeredMetaDataProvider());
        List<Cluster> clusters = Clusters.of(schema);
        Layout layout = new Layout(schema, clusters);
        return layout.packed(clusters.stream().map(layout::area).toList());
    }

    /** The groups side by side, packed in the way that lets the sheets show them largest. */
    private Drawing packed(List<Area> areas) {
        Drawing best = packed(areas, SHEETS);
        for (double shape = SHEETS / 2; shape < SHEETS * 2; shape *= 1.07) {
            Drawing other = packed(areas, shape);
            if (scale(other) > scale(best)) {
                best = other;
            }
        }
        return best;
    }

    /** How large a drawing is on the sheets. */
    private static double scale(Drawing drawing) {
        return Math.min(SHEETS / drawing.width(), 1 / drawing.height());
    }

    private Drawing packed(List<Area> areas, double shape) {
        ElkNode sheet = ElkGraphUtil.createGraph();
        sheet.setProperty(CoreOptions.ALGORITHM, BoxLayouterOptions.ALGORITHM_ID);
        sheet.setProperty(CoreOptions.ASPECT_RATIO, shape);
        sheet.setProperty(BoxLayouterOptions.SPACING_NODE_NODE, (double) MARGIN);
        sheet.setProperty(BoxLayouterOptions.PADDING, new ElkPadding(MARGIN));
        for (Area area : areas) {
            ElkGraphUtil.createNode(sheet).setDimensions(area.width(), area.height());
        }
        arrange(sheet);
        List<Area> placed = new ArrayList<>();
        for (int i = 0; i < areas.size(); i++) {
            ElkNode node = sheet.getChildren().get(i);
            placed.add(moved(areas.get(i), node.getX(), node.getY()));
        }
        double width = placed.stream().mapToDouble(a -> a.x() + a.width()).max().orElse(200);
        double height =
                placed.stream().mapToDouble(a -> a.y() + a.height()).max().orElse(0);
        return new Drawing(Math.ceil(width) + MARGIN, Math.ceil(height) + MARGIN + LEGEND, placed, shortened);
    }

    private static Area moved(Area area, double x, double y) {
        return new Area(
                area.title(),
                x,
                y,
                area.width(),
                area.height(),
                area.boxes().stream().map(b -> b.at(b.x() + x, b.y() + y)).toList(),
                area.ways().stream().map(w -> w.movedBy(x, y)).toList());
    }

    private static void arrange(ElkNode graph) {
        new RecursiveGraphLayoutEngine().layout(graph, new BasicProgressMonitor());
    }

    /** One group, its upper left corner at 0, 0: of several ways to lay it out, the one that takes the least paper. */
    private Area area(Cluster cluster) {
        if (!framed) {
            return area(cluster, LayeringStrategy.COFFMAN_GRAHAM, NodePlacementStrategy.BRANDES_KOEPF);
        }
        return Stream.of(
                        LayeringStrategy.NETWORK_SIMPLEX,
                        LayeringStrategy.LONGEST_PATH,
                        LayeringStrategy.COFFMAN_GRAHAM)
                .map(layering -> area(cluster, layering, NodePlacementStrategy.SIMPLE))
                .min(Comparator.comparing(area -> area.width() * area.height()))
                .orElseThrow();
    }

    private Area area(Cluster cluster, LayeringStrategy layering, NodePlacementStrategy placement) {
        double frame = framed ? 14 : 0;
        ElkNode graph = ElkGraphUtil.createGraph();
        graph.setProperty(CoreOptions.ALGORITHM, LayeredOptions.ALGORITHM_ID);
        graph.setProperty(CoreOptions.DIRECTION, Direction.RIGHT);
        graph.setProperty(CoreOptions.EDGE_ROUTING, EdgeRouting.ORTHOGONAL);
        graph.setProperty(CoreOptions.ASPECT_RATIO, SHEETS);
        graph.setProperty(CoreOptions.RANDOM_SEED, 1); // the same schema is the same picture
        graph.setProperty(LayeredOptions.PADDING, new ElkPadding(frame + (framed ? TITLE : 0), frame, frame, frame));
        graph.setProperty(LayeredOptions.LAYERING_STRATEGY, layering);
        graph.setProperty(LayeredOptions.NODE_PLACEMENT_STRATEGY, placement);
        graph.setProperty(LayeredOptions.SPACING_NODE_NODE, framed ? 14.0 : 20.0);
        graph.setProperty(LayeredOptions.SPACING_NODE_NODE_BETWEEN_LAYERS, framed ? 26.0 : 34.0);
        graph.setProperty(LayeredOptions.SPACING_EDGE_NODE, 14.0);
        graph.setProperty(LayeredOptions.SPACING_EDGE_NODE_BETWEEN_LAYERS, 12.0);
        graph.setProperty(LayeredOptions.SPACING_EDGE_EDGE_BETWEEN_LAYERS, 8.0);
        Map<String, Node> nodes = new LinkedHashMap<>();
        for (Table table : schema.storingOrder().tables()) {
            if (clusterOf.get(table.name()) == cluster) {
                nodes.put(table.name(), new Node(graph, box(table, cluster)));
            }
        }
        Map<ElkEdge, Way> edges = new LinkedHashMap<>();
        for (Node node : nodes.values()) {
            for (Reference reference : node.box.table().references()) {
                Node target = nodes.get(schema.require(reference.target()).name());
                if (target != null) {
                    edges.put(node.edge(reference, target), way(node.box.table(), reference));
                }
            }
        }
        arrange(graph);
        List<Way> ways = new ArrayList<>();
        edges.forEach((edge, way) ->
                edge.getSections().forEach(section -> way.points().addAll(points(section))));
        ways.addAll(edges.values());
        return new Area(
                cluster.title(),
                0,
                0,
                graph.getWidth(),
                graph.getHeight(),
                nodes.values().stream()
                        .map(n -> n.box.at(n.node.getX(), n.node.getY()))
                        .toList(),
                ways);
    }

    private Way way(Table table, Reference reference) {
        return new Way(
                table, reference, new ArrayList<>(), schema.storingOrder().runsAgainst(table, reference));
    }

    /** From the referring table on; the layout's own lines run from the other one. */
    private static List<double[]> points(ElkEdgeSection section) {
        List<double[]> points = new ArrayList<>();
        points.add(new double[] {section.getEndX(), section.getEndY()});
        for (int i = section.getBendPoints().size() - 1; i >= 0; i--) {
            points.add(new double[] {
                section.getBendPoints().get(i).getX(),
                section.getBendPoints().get(i).getY()
            });
        }
        points.add(new double[] {section.getStartX(), section.getStartY()});
        return points;
    }

    private Box box(Table table, Cluster cluster) {
        List<Line> lines = new ArrayList<>();
        List<Column> shown = table.columns().stream()
                .filter(c -> !shortened
                        || table.keyColumns().contains(c.name())
                        || !table.referencesOf(c.name()).isEmpty())
                .toList();
        if (shown.isEmpty()) {
            shown = table.columns()
                    .subList(0, Math.min(FIRST_COLUMNS, table.columns().size()));
        }
        double width = columns(table.name()) * CHARACTER * 1.1 + 24;
        for (Column column : shown) {
            Line line = line(table, column, cluster);
            lines.add(line);
            width = Math.max(width, (columns(line.left()) + columns(line.right()) + 3) * CHARACTER + 20);
        }
        int more = table.columns().size() - shown.size();
        width = Math.max(width, columns(SchemaDiagram.more(more)) * CHARACTER + 24);
        return new Box(table, lines, more, 0, 0, Math.ceil(width), Box.heightOf(lines.size(), more));
    }

    private Line line(Table table, Column column, Cluster cluster) {
        List<String> elsewhere = table.referencesOf(column.name()).stream()
                .map(r -> schema.require(r.target()).name())
                .filter(target -> clusterOf.get(target) != cluster)
                .distinct()
                .toList();
        String left = column.name();
        if (table.keyColumns().contains(column.name())) {
            left += " *";
        } else if (column.nullable()) {
            left += " ?";
        }
        if (!elsewhere.isEmpty()) {
            return new Line(column, left, "→ " + String.join(", ", elsewhere), true);
        }
        return new Line(column, left, shortened ? "" : SchemaDiagram.type(column), false);
    }

    /** How many characters wide a text is; those of East Asian scripts are twice as wide. */
    private static int columns(String text) {
        return text.codePoints().map(c -> c < 0x1100 ? 1 : 2).sum();
    }

    /** A box as the layout knows it. */
    private static final class Node {
        final Box box;
        final ElkNode node;
        private final Map<String, ElkPort> ports = new LinkedHashMap<>();

        Node(ElkNode graph, Box box) {
            this.box = box;
            this.node = ElkGraphUtil.createNode(graph);
            node.setDimensions(box.width(), box.height());
            node.setProperty(CoreOptions.PORT_CONSTRAINTS, PortConstraints.FIXED_POS);
        }

        ElkEdge edge(Reference reference, Node target) {
            List<String> columns = reference.columns();
            PortSide side = target == this ? PortSide.EAST : PortSide.WEST; // one that refers to itself: a small bow
            ElkPort here = port(columns.get(columns.size() - 1), side);
            ElkPort there = target.port(reference.targetColumns().get(0), PortSide.EAST);
            return ElkGraphUtil.createSimpleEdge(there, here);
        }

        private ElkPort port(String column, PortSide side) {
            return ports.computeIfAbsent(side + " " + column, k -> {
                ElkPort port = ElkGraphUtil.createPort(node);
                port.setProperty(CoreOptions.PORT_SIDE, side);
                port.setLocation(side == PortSide.WEST ? 0 : box.width(), height(column));
                return port;
            });
        }

        private double height(String column) {
            for (int i = 0; i < box.lines().size(); i++) {
                if (box.lines().get(i).column().name().equals(column)) {
                    return Drawing.HEAD + i * Drawing.LINE + Drawing.LINE / 2.0 + 3;
                }
            }
            return Drawing.HEAD / 2.0;
        }
    }
}
