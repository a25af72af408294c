package dev.zabbet.cli.diagram;

import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jgrapht.alg.clustering.GreedyModularityAlgorithm;
import org.jgrapht.graph.DefaultWeightedEdge;
import org.jgrapht.graph.SimpleWeightedGraph;

/**
 * Tells which tables belong together: those with more references among each other than chance would give (modularity, after
 * Clauset, Newman and Moore 2004).
 */
final class Clusters {
    /** A schema with fewer tables is one picture, with all its lines. */
    private static final int ONE_PICTURE = 30;

    /** A group of more tables is divided, so that its lines can be followed. */
    private static final int LARGE = 16;

    /** Groups of fewer tables stand together in one area, which saves paper. */
    private static final int SMALL = 3;

    /** A group: its tables in the order of the schema. */
    record Cluster(String title, List<Table> tables) {}

    private Clusters() {}

    static List<Cluster> of(Schema schema) {
        if (schema.tables().size() <= ONE_PICTURE) {
            return List.of(new Cluster("", schema.tables()));
        }
        List<Table> few = new ArrayList<>();
        List<Cluster> clusters = new ArrayList<>();
        for (List<Table> tables : groups(schema, schema.tables())) {
            if (tables.size() < SMALL) {
                few.addAll(tables);
            } else {
                clusters.add(new Cluster(mostReferred(tables), tables));
            }
        }
        clusters.sort(Comparator.comparing((Cluster c) -> -c.tables().size()).thenComparing(Cluster::title));
        if (!few.isEmpty()) {
            few.sort(Comparator.comparing(schema.tables()::indexOf));
            clusters.add(new Cluster(clusters.isEmpty() ? "" : "others", few));
        }
        return clusters;
    }

    /** Groups of these tables; large ones are divided again, as long as that is possible. */
    private static List<List<Table>> groups(Schema schema, List<Table> among) {
        Map<String, Integer> numbers = new LinkedHashMap<>();
        among.forEach(table -> numbers.put(table.name(), numbers.size()));
        SimpleWeightedGraph<Integer, DefaultWeightedEdge> graph = new SimpleWeightedGraph<>(DefaultWeightedEdge.class);
        numbers.values().forEach(graph::addVertex);
        for (int i = 0; i < among.size(); i++) {
            for (Reference reference : among.get(i).references()) {
                Integer target = numbers.get(schema.require(reference.target()).name());
                if (target != null) {
                    connect(graph, i, target);
                }
            }
        }
        List<List<Table>> groups = new ArrayList<>();
        for (Set<Integer> group :
                new GreedyModularityAlgorithm<>(graph).getClustering().getClusters()) {
            List<Table> tables = group.stream().sorted().map(among::get).toList();
            boolean divide = tables.size() > LARGE && tables.size() < among.size();
            groups.addAll(divide ? groups(schema, tables) : List.of(tables));
        }
        return groups;
    }

    private static void connect(SimpleWeightedGraph<Integer, DefaultWeightedEdge> graph, Integer one, Integer other) {
        if (one.equals(other)) {
            return;
        }
        DefaultWeightedEdge edge = graph.getEdge(one, other);
        if (edge == null) {
            graph.addEdge(one, other);
        } else {
            graph.setEdgeWeight(edge, graph.getEdgeWeight(edge) + 1);
        }
    }

    /** A group is called after the table that most others of it refer to. */
    private static String mostReferred(List<Table> tables) {
        return tables.stream()
                .max(Comparator.comparing((Table t) -> tables.stream()
                                .flatMap(other -> other.references().stream())
                                .filter(r -> r.target().equals(t.name()))
                                .count())
                        .thenComparing(Comparator.comparing(Table::name).reversed()))
                .map(Table::name)
                .orElse("");
    }
}
