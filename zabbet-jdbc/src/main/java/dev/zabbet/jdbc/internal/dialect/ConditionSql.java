package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A condition as SQL; its values are parameters. */
public final class ConditionSql implements Condition.Visitor<String> {
    private final Dialect dialect;
    private final Table table;
    private final List<@Nullable Object> parameters = new ArrayList<>();
    private final List<Column> columns = new ArrayList<>();
    private final String text;

    /** A pattern is text, whatever the column is. */
    private record Pattern(String text) {}

    public ConditionSql(Dialect dialect, Table table, Condition where) {
        this.dialect = dialect;
        this.table = table;
        this.text = where.equals(Condition.all()) ? "" : where.accept(this);
    }

    public boolean isEmpty() {
        return text.isEmpty();
    }

    public String text() {
        return text;
    }

    /** Sets the parameters, from the first on. */
    int bind(PreparedStatement statement) throws SQLException {
        return bind(statement, 1);
    }

    /** Sets the parameters, from one on; returns the number of the parameter behind them. */
    public int bind(PreparedStatement statement, int first) throws SQLException {
        for (int i = 0; i < parameters.size(); i++) {
            if (parameters.get(i) instanceof Pattern pattern) {
                statement.setString(first + i, pattern.text());
            } else {
                dialect.bind(statement, first + i, columns.get(i), parameters.get(i));
            }
        }
        return first + parameters.size();
    }

    @Override
    public String visitEqual(Condition.Equal equal) {
        Column column = table.requireColumn(equal.column());
        return name(column) + (equal.value() == null ? " IS NULL" : " = " + parameter(column, equal.value()));
    }

    @Override
    public String visitCompared(Condition.Compared compared) {
        Column column = table.requireColumn(compared.column());
        return name(column) + " " + compared.comparison().sql() + " " + parameter(column, compared.value());
    }

    @Override
    public String visitBetween(Condition.Between between) {
        Column column = table.requireColumn(between.column());
        return name(column) + " BETWEEN " + parameter(column, between.least()) + " AND "
                + parameter(column, between.most());
    }

    @Override
    public String visitLike(Condition.Like like) {
        Column column = table.requireColumn(like.column());
        parameters.add(new Pattern(dialect.likePattern(like.pattern(), like.ignoreCase())));
        columns.add(column);
        return dialect.like(name(column), like.ignoreCase());
    }

    @Override
    public String visitNot(Condition.Not not) {
        return "NOT (" + not.part().accept(this) + ")";
    }

    @Override
    public String visitAnd(Condition.And and) {
        return joined(and.parts(), " AND ", "1 = 1");
    }

    @Override
    public String visitOr(Condition.Or or) {
        return joined(or.parts(), " OR ", "1 = 0");
    }

    private String joined(List<Condition> parts, String by, String none) {
        return parts.isEmpty()
                ? none
                : parts.stream().map(part -> part.accept(this)).collect(Collectors.joining(by, "(", ")"));
    }

    @Override
    public String visitOneOf(Condition.OneOf oneOf) {
        Column column = table.requireColumn(oneOf.column());
        List<@Nullable Object> values =
                oneOf.values().stream().filter(Objects::nonNull).collect(Collectors.toList());
        String list = values.isEmpty()
                ? "1 = 0"
                : name(column) + " IN ("
                        + values.stream().map(v -> parameter(column, v)).collect(Collectors.joining(", ")) + ")";
        return values.size() == oneOf.values().size() ? list : "(" + list + " OR " + name(column) + " IS NULL)";
    }

    private String parameter(Column column, @Nullable Object value) {
        parameters.add(value);
        columns.add(column);
        return dialect.placeholder(column);
    }

    private String name(Column column) {
        return dialect.quote(column.sqlName());
    }
}
