package dev.zabbet.cli;

import dev.zabbet.Memory;
import dev.zabbet.cli.diagram.SchemaDiagram;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.SchemaFile;
import dev.zabbet.internal.text.Printable;
import dev.zabbet.internal.text.Words;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.StoringOrder;
import dev.zabbet.schema.StoringOrder.Cycle;
import dev.zabbet.schema.Table;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Shows a database's tables. */
@Command(
        name = "schema",
        mixinStandardHelpOptions = true,
        description = {
            "Shows the tables of a database with their keys, references and checks, the order in which rows can be"
                    + " stored, and the cycles in it. Writes nothing.",
            "",
            "Example: zabbet schema --db jdbc:h2:./huts --out huts.svg",
            ""
        })
final class SchemaCommand implements Runnable {
    @Mixin
    private final DatabaseOptions database = new DatabaseOptions();

    @Option(
            names = "--out",
            paramLabel = "FILE",
            description =
                    "Writes the schema into a file; its ending says how: .html (a diagram with search and zoom, one page that"
                            + " needs nothing else), .svg (a diagram to print), .mmd (a diagram as text for Mermaid), or .json"
                            + " (read again by SchemaFile.read, so that a unit test needs no database).")
    private @Nullable Path out;

    @Option(names = "--json", description = "Prints the schema as JSON.")
    private boolean json;

    @Spec
    @SuppressWarnings("NullAway.Init") // set by picocli before run()
    private CommandSpec spec;

    @Override
    public void run() {
        Schema schema = Jdbc.schema(database.dataSource());
        Terminal paper = new Terminal(spec.commandLine().getOut());
        Path file = out;
        if (file != null) {
            write(schema, file);
            paper.line("Written: " + file + ", " + Words.count(schema.tables().size(), "table"));
            return;
        }
        if (json) {
            paper.line(SchemaFile.toJson(schema));
            return;
        }
        if (schema.tables().isEmpty()) {
            paper.line("This database has no tables.");
            return;
        }
        int references =
                schema.tables().stream().mapToInt(t -> t.references().size()).sum();
        int cycles = schema.storingOrder().cycles().size();
        paper.shown(
                paper.bold(Words.count(schema.tables().size(), "table")),
                ", " + Words.count(references, "reference") + ", " + Words.count(cycles, "cycle"));
        schema.tables().forEach(table -> print(paper, table));
        List<String> unknown = Memory.notEnforced(schema);
        if (!unknown.isEmpty()) {
            paper.blank();
            paper.heading("Only the database can evaluate these; in memory they are not enforced");
            unknown.forEach(line -> paper.line("  " + line));
        }
        if (!schema.leftOut().isEmpty()) {
            paper.blank();
            paper.heading("Left out");
            schema.leftOut().forEach((name, why) -> paper.line("  " + name + ": " + why));
        }
        printOrder(paper, schema.storingOrder());
    }

    private static void write(Schema schema, Path file) {
        String name = file.toString().toLowerCase(Locale.ROOT);
        try {
            if (name.endsWith(".json")) {
                SchemaFile.write(schema, file);
            } else if (name.endsWith(".svg")) {
                Files.writeString(file, SchemaDiagram.svg(schema));
            } else if (name.endsWith(".html")) {
                Files.writeString(file, SchemaDiagram.html(schema));
            } else if (name.endsWith(".mmd")) {
                Files.writeString(file, SchemaDiagram.mermaid(schema));
            } else {
                throw new ZabbetException(
                        "'" + file + "' says by its ending how to write the schema: .html, .svg, .mmd or .json.");
            }
        } catch (IOException e) {
            throw new ZabbetException("'" + file + "' cannot be written: " + e, e);
        }
    }

    private static void print(Terminal paper, Table table) {
        paper.blank();
        paper.heading(table.name());
        List<List<String>> grid = new ArrayList<>();
        for (Column column : table.columns()) {
            grid.add(List.of(
                    column.name(), column.type().sqlName(), column.nullable() ? "null" : "", role(table, column)));
        }
        grid.add(0, List.of("column", "type", "", ""));
        paper.grid("  ", grid);
        table.uniques().stream()
                .filter(u -> u.columns().size() > 1)
                .forEach(u -> paper.line("  unique (" + String.join(", ", u.columns()) + ")"));
        table.references().stream().filter(r -> r.columns().size() > 1).forEach(r -> paper.line("  " + r.describe()));
        table.checks().forEach(check -> paper.line("  check " + check.text()));
        if (!table.nature().triggers().isEmpty()) {
            paper.line("  " + (table.nature().triggers().size() == 1 ? "trigger " : "triggers ")
                    + String.join(", ", table.nature().triggers()));
        }
    }

    private static String role(Table table, Column column) {
        List<String> parts = new ArrayList<>();
        if (table.keyColumns().contains(column.name())) {
            parts.add(table.keyColumns().size() > 1 ? "part of the key" : "key");
        }
        if (column.isNumbered()) {
            parts.add("numbered by the database");
        }
        if (column.generation() == Generation.COMPUTED) {
            parts.add("computed");
        }
        if (table.uniques().stream().anyMatch(u -> u.columns().equals(List.of(column.name())))) {
            parts.add("unique");
        }
        table.references().stream()
                .filter(r -> r.columns().equals(List.of(column.name())))
                .forEach(r -> parts.add("→ " + r.target()));
        column.defaultText().filter(d -> !column.isComputed()).ifPresent(d -> parts.add("default " + d));
        return String.join(", ", parts);
    }

    private static void printOrder(Terminal paper, StoringOrder order) {
        paper.blank();
        paper.heading("Rows can be stored in this order");
        int number = 0;
        for (Table table : order.tables()) {
            number++;
            String needs = table.references().stream()
                    .filter(r -> !order.runsAgainst(table, r))
                    .map(Reference::target)
                    .distinct()
                    .collect(Collectors.joining(", "));
            paper.shown(
                    String.format(Locale.ROOT, "  %2d  ", number),
                    Printable.of(table.name()),
                    needs.isEmpty() ? "" : paper.faint(", after " + needs));
        }
        for (Cycle cycle : order.cycles()) {
            paper.blank();
            paper.line("  Cycle " + names(cycle) + ": " + breaking(cycle));
        }
    }

    private static String names(Cycle cycle) {
        List<String> names =
                new ArrayList<>(cycle.tables().stream().map(Table::name).toList());
        names.add(names.get(0));
        return String.join(" → ", names);
    }

    private static String breaking(Cycle cycle) {
        List<String> columns = cycle.references().stream()
                .map(r -> String.join(", ", r.columns()))
                .toList();
        String which = Words.and(columns);
        return switch (cycle.breaking()) {
            case EMPTY_THEN_UPDATE -> which + " can be stored empty and filled afterwards.";
            case DEFERRED -> "the check of " + which + " waits until the transaction commits.";
            case ROW_BY_ROW -> which + " can neither be empty nor wait; rows have to refer to themselves.";
        };
    }
}
