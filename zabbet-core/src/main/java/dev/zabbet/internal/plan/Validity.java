package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.check.CheckCondition.Verdict;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.type.DataType;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Finds out before anything is stored what can be found out: nulls, lengths and checks. Values that repeat are looked at
 * once each; values made from the schema keep their column's own checks by the way they are made, so that a few rows
 * are enough to see that.
 */
final class Validity {
    private static final int A_FEW = 16;

    private final Node node;
    private final int size;

    Validity(Node node, int size) {
        this.node = node;
        this.size = size;
    }

    void require() {
        for (int at = 0; at < node.cells.length; at++) {
            Source source = node.source(at);
            int rows;
            if (source instanceof Source.Repeated repeated) {
                rows = Math.min(size, repeated.values().length);
            } else if (source instanceof Source.Remembered) {
                rows = size;
            } else {
                rows = Math.min(size, A_FEW);
            }
            for (int row = 0; row < rows && !node.isLeftOut(at); row++) {
                requireFit(at, source.at(row));
            }
        }
        for (Check check : node.table.checks()) {
            CheckCondition condition = CheckCondition.of(node.table, check);
            int rows = rowsToTest(condition);
            for (int row = 0; row < rows; row++) {
                requireKept(condition, row);
            }
        }
    }

    private int rowsToTest(CheckCondition condition) {
        Set<String> columns = condition.columns();
        long period = 1;
        boolean made = false;
        for (String column : columns) {
            int at = node.table.position(column);
            Source source = node.source(at);
            if (node.isLeftOut(at) && node.table.columns().get(at).defaultText().isPresent()) {
                return 0; // the value is the database's, and so is the test
            }
            if (source instanceof Source.Repeated repeated) {
                period *= repeated.values().length;
            } else if (source instanceof Source.Remembered) {
                return size;
            } else if (source instanceof Source.Solved) {
                return Math.min(size, A_FEW); // found by trying just this check
            } else if (!(source instanceof Source.None)) {
                made = true;
            }
        }
        if (!made) {
            return (int) Math.min(size, period);
        }
        boolean alone = columns.size() == 1;
        return alone ? Math.min(size, A_FEW) : size;
    }

    private void requireFit(int at, @Nullable Object value) {
        Column column = node.table.columns().get(at);
        String name = node.table.name() + "." + column.name();
        if (value == null && !column.nullable()) {
            throw new ZabbetException(name + " does not allow null, and the factory gives it null.");
        }
        int most = column.type().length();
        if (most == DataType.UNLIMITED) {
            return;
        }
        if (value instanceof String text && text.length() > most && text.codePointCount(0, text.length()) > most) {
            throw new ZabbetException(
                    name + " is " + column.type().sqlName() + " and keeps " + most + " characters; the value has "
                            + text.codePointCount(0, text.length()) + ": " + Text.of(text) + ".");
        }
        if (value instanceof byte[] bytes && bytes.length > most) {
            throw new ZabbetException(name + " is " + column.type().sqlName() + " and keeps " + most
                    + " bytes; the value has " + bytes.length + ".");
        }
    }

    private void requireKept(CheckCondition condition, int row) {
        if (condition.evaluate(at -> node.source(at).at(row)) != Verdict.BROKEN) {
            return;
        }
        Check check = condition.check();
        Map<String, @Nullable Object> shown = new LinkedHashMap<>();
        condition
                .columns()
                .forEach(column -> shown.put(
                        column, node.source(node.table.position(column)).at(row)));
        throw new ZabbetException("A row of " + node.table.name() + " would break its check "
                + (check.name().isEmpty() ? "" : check.name() + ", ") + check.text() + ", with " + Row.of(shown)
                + ". Set " + String.join(", ", condition.columns()) + " to values that keep it. Nothing was stored.");
    }
}
