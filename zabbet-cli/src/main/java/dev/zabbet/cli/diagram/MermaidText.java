package dev.zabbet.cli.diagram;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.List;

/** Writes an entity diagram as text for Mermaid. */
final class MermaidText {
    private MermaidText() {}

    static String of(Schema schema) {
        StringBuilder text = new StringBuilder("erDiagram\n");
        for (Table table : schema.storingOrder().tables()) {
            text.append("    ").append(word(table.name())).append(" {\n");
            for (Column column : table.columns()) {
                List<String> marks = marks(table, column);
                text.append("        ")
                        .append(word(column.type().sqlName()))
                        .append(' ')
                        .append(word(column.name()))
                        .append(marks.isEmpty() ? "" : " " + String.join(", ", marks))
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

    private static List<String> marks(Table table, Column column) {
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
        return marks;
    }

    private static String word(String name) {
        String word = name.replaceAll("[^\\p{L}\\p{N}_]+", "_").replaceAll("_+$", "");
        return word.isEmpty() || Character.isDigit(word.charAt(0)) ? "_" + word : word;
    }
}
