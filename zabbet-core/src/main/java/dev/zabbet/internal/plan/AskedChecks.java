package dev.zabbet.internal.plan;

import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Table;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;

/** Asks the store about checks that only it understands; what it said of the same values is remembered. */
final class AskedChecks implements Puzzle.Arbiter {
    private static final int MOST_QUESTIONS = 3000;

    private final Table table;
    private final StoreView ground;
    private final Map<Row, Boolean> answers = new HashMap<>();

    AskedChecks(Table table, StoreView ground) {
        this.table = table;
        this.ground = ground;
    }

    @Override
    public boolean isExact() {
        return ground.isExact();
    }

    @Override
    public boolean keeps(CheckCondition condition, IntFunction<@Nullable Object> values) {
        List<String> names = new ArrayList<>(condition.columns());
        List<@Nullable Object> held = new ArrayList<>();
        names.forEach(name -> held.add(values.apply(table.requirePosition(name))));
        Row asked = Row.of(names, held.toArray());
        List<String> key = new ArrayList<>(names);
        key.add("\n" + condition.check().text());
        held.add("");
        Row remembered = Row.of(key, held.toArray());
        Boolean known = answers.get(remembered);
        if (known != null) {
            return known;
        }
        if (answers.size() >= MOST_QUESTIONS) {
            return true; // the store will say so when it stores the row
        }
        boolean answer = ground.keeps(table, condition.check(), asked).orElse(true);
        answers.put(remembered, answer);
        return answer;
    }
}
