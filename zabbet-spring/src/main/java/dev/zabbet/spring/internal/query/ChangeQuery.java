package dev.zabbet.spring.internal.query;

import dev.zabbet.fake.Tables;
import dev.zabbet.row.Row;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.Statement;
import net.sf.jsqlparser.statement.delete.Delete;
import net.sf.jsqlparser.statement.insert.Insert;
import net.sf.jsqlparser.statement.update.Update;
import net.sf.jsqlparser.statement.update.UpdateSet;
import org.jspecify.annotations.Nullable;

/** An UPDATE, DELETE or INSERT. */
final class ChangeQuery {
    private final Expressions expressions;
    private final Columns columns;
    private final Names.Source source;
    private final Map<String, Value> changes = new LinkedHashMap<>(); // by columns
    private final List<Map<String, Value>> added = new ArrayList<>();
    private @Nullable Value where;

    /** How the things that a query changes lie in a table. */
    interface Columns {
        /** Returns the table's name. */
        String table();

        /** Returns the column that a name in a SET means. */
        String column(String name) throws UnsupportedQueryException;

        /** Returns the key of an object or row that was found. */
        List<Object> key(Object found, Tables tables);

        /** Deletes what has a key. */
        void delete(List<Object> key, Tables tables);
    }

    private ChangeQuery(Names names, Parameters parameters, Columns columns, Table table)
            throws UnsupportedQueryException {
        this.expressions = new Expressions(names, parameters);
        this.columns = columns;
        this.source = names.source(table);
    }

    static ChangeQuery read(Statement statement, Names names, Parameters parameters, Columns columns)
            throws UnsupportedQueryException {
        if (statement instanceof Update update && isPlain(update)) {
            ChangeQuery query = new ChangeQuery(names, parameters, columns, update.getTable());
            for (UpdateSet set : update.getUpdateSets()) {
                query.set(set);
            }
            query.where(update.getWhere());
            return query;
        }
        if (statement instanceof Delete delete && isEmpty(delete.getJoins()) && isEmpty(delete.getUsingList())) {
            ChangeQuery query = new ChangeQuery(names, parameters, columns, delete.getTable());
            query.where(delete.getWhere());
            return query;
        }
        if (statement instanceof Insert insert && insert.getConflictAction() == null && insert.getColumns() != null) {
            ChangeQuery query = new ChangeQuery(names, parameters, columns, insert.getTable());
            query.insert(insert);
            return query;
        }
        throw new UnsupportedQueryException(statement.toString());
    }

    private static boolean isPlain(Update update) {
        return isEmpty(update.getJoins()) && isEmpty(update.getStartJoins()) && update.getFromItem() == null;
    }

    private static boolean isEmpty(@Nullable List<?> parts) {
        return parts == null || parts.isEmpty();
    }

    private void where(@Nullable Expression condition) throws UnsupportedQueryException {
        where = condition == null ? null : expressions.value(condition);
    }

    private void set(UpdateSet set) throws UnsupportedQueryException {
        for (int i = 0; i < set.getColumns().size(); i++) {
            changes.put(
                    columns.column(set.getColumns().get(i).getColumnName()),
                    expressions.value(set.getValues().get(i)));
        }
    }

    private void insert(Insert insert) throws UnsupportedQueryException {
        if (insert.getValues() == null) {
            throw new UnsupportedQueryException(insert.toString());
        }
        ExpressionList<?> values = insert.getValues().getExpressions();
        boolean several = !values.isEmpty() && values.get(0) instanceof ExpressionList<?>;
        for (Object one : several ? values : List.of(values)) {
            ExpressionList<?> row = (ExpressionList<?>) one;
            Map<String, Value> rowValues = new LinkedHashMap<>();
            for (int i = 0; i < row.size(); i++) {
                Column column = insert.getColumns().get(i);
                rowValues.put(columns.column(column.getColumnName()), expressions.value(row.get(i)));
            }
            added.add(rowValues);
        }
    }

    /** Changes what is stored, and returns how many rows. */
    long run(Call call) {
        Scope scope = Scope.of(call);
        for (Map<String, Value> row : added) {
            call.tables().insert(columns.table(), values(row, scope));
        }
        if (!added.isEmpty()) {
            return added.size();
        }
        List<Scope> found = new ArrayList<>();
        for (Object element : source.elements().in(scope)) {
            Scope with = scope.with(source.alias(), element);
            if (where == null || Boolean.TRUE.equals(where.in(with))) {
                found.add(with);
            }
        }
        for (Scope one : found) {
            Object element = java.util.Objects.requireNonNull(one.get(source.alias()));
            List<Object> key = columns.key(element, call.tables());
            if (changes.isEmpty()) {
                columns.delete(key, call.tables());
            } else {
                call.tables().update(columns.table(), key, values(changes, one));
            }
        }
        return found.size();
    }

    private static Row values(Map<String, Value> of, Scope scope) {
        Map<String, @Nullable Object> values = new LinkedHashMap<>();
        of.forEach((column, value) -> values.put(column, Operators.stored(value.in(scope))));
        return Row.of(values);
    }
}
