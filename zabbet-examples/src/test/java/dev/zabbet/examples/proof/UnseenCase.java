package dev.zabbet.examples.proof;

import dev.zabbet.Acted;
import dev.zabbet.Stage;
import dev.zabbet.files.RowDocument;
import dev.zabbet.junit.EveryStage;
import dev.zabbet.row.Row;
import java.util.LinkedHashMap;
import java.util.Map;
import org.junit.jupiter.api.Test;

/**
 * A hundred columns in five tables, all of them written, and five ways to look at them. At twenty-five nobody looks: those whose
 * names begin with {@code quiet}. Run by {@link SuiteTest}.
 */
@EveryStage("/db/registers.sql")
class UnseenCase {

    @Test
    void byFootprint(Stage stage) {
        Acted<Row> act = stage.act(() -> stage.add("by_footprint"));
        act.expect().added("by_footprint", heard(act.value())).nothingElse();
    }

    @Test
    void byRows(Stage stage) {
        Acted<Row> act = stage.act(() -> stage.add("by_rows"));
        stage.expect("by_rows").holds(heard(act.value()));
    }

    @Test
    void byConditions(Stage stage) {
        Acted<Row> act = stage.act(() -> stage.add("by_conditions"));
        heard(act.value()).asMap().forEach((column, value) -> stage.expect("by_conditions")
                .where(column, value)
                .count(1));
    }

    @Test
    void byChoice(Stage stage) {
        Acted<Row> act = stage.act(() -> stage.add("by_choice"));
        stage.expect("by_choice")
                .select(heard(act.value()).columns().toArray(String[]::new))
                .holdsOnly(act.value());
    }

    @Test
    void byOrder(Stage stage) {
        Acted<Row> act = stage.act(() -> stage.add("by_order"));
        Map<String, Object> heard = new LinkedHashMap<>(heard(act.value()).asMap());
        Object name = heard.remove("name");
        stage.expect("by_order").orderedBy("-rooms").holdsInOrder(heard);
        stage.expect(RowDocument.of("by order", """
                expect:
                  by_order: {holdsOnly: [{name: "%s"}]}
                """.formatted(name)));
    }

    private static Row heard(Row stored) {
        Map<String, Object> heard = new LinkedHashMap<>();
        stored.asMap().forEach((column, value) -> {
            if (value != null && !column.equals("id") && !column.startsWith("quiet")) {
                heard.put(column, value);
            }
        });
        return Row.of(heard);
    }
}
