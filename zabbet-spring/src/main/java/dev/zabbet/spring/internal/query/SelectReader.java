package dev.zabbet.spring.internal.query;

import java.util.List;
import java.util.Optional;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.LongValue;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.select.AllColumns;
import net.sf.jsqlparser.statement.select.AllTableColumns;
import net.sf.jsqlparser.statement.select.FromItem;
import net.sf.jsqlparser.statement.select.Join;
import net.sf.jsqlparser.statement.select.OrderByElement;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SelectItem;

/** Reads a SELECT. */
final class SelectReader {
    private final Names names;
    private final Expressions expressions;
    private final SelectQuery query = new SelectQuery();

    private SelectReader(Names names, Parameters parameters) {
        this.names = names;
        this.expressions = new Expressions(names, parameters);
    }

    static SelectQuery read(Select select, Names names, Parameters parameters) throws UnsupportedQueryException {
        if (!(select instanceof PlainSelect plain)
                || select.getWithItemsList() != null
                || select.getFetch() != null
                || plain.getTop() != null
                || plain.getQualify() != null) {
            throw new UnsupportedQueryException(select.toString());
        }
        SelectReader reader = new SelectReader(names, parameters);
        reader.read(plain);
        return reader.query;
    }

    private void read(PlainSelect select) throws UnsupportedQueryException {
        if (select.getFromItem() != null) {
            query.join(names.source(table(select.getFromItem())), null, false);
        }
        for (Join join : Optional.ofNullable(select.getJoins()).orElse(List.of())) {
            join(join);
        }
        if (select.getWhere() != null) {
            query.where(expressions.value(select.getWhere()));
        }
        if (select.getGroupBy() != null) {
            for (Object by : select.getGroupBy().getGroupByExpressionList()) {
                query.groupBy(expressions.value((Expression) by));
            }
        }
        if (select.getDistinct() != null) {
            query.makeDistinct();
        }
        for (SelectItem<?> item : select.getSelectItems()) {
            select(item);
        }
        if (select.getHaving() != null) {
            query.having(expressions.value(select.getHaving()));
        }
        for (OrderByElement by :
                Optional.ofNullable(select.getOrderByElements()).orElse(List.of())) {
            Boolean nullsFirst = by.getNullOrdering() == null
                    ? null
                    : by.getNullOrdering() == OrderByElement.NullOrdering.NULLS_FIRST;
            query.orderBy(ordered(by.getExpression()), by.isAsc(), nullsFirst);
        }
        if (select.getLimit() != null) {
            query.limit(expressions.value(select.getLimit().getRowCount()));
        }
        if (select.getOffset() != null) {
            query.offset(expressions.value(select.getOffset().getOffset()));
        }
        if (expressions.isAggregated()) {
            query.aggregate();
        }
    }

    private static Table table(FromItem item) throws UnsupportedQueryException {
        if (item instanceof Table table) {
            return table;
        }
        throw new UnsupportedQueryException(item.toString());
    }

    private void join(Join join) throws UnsupportedQueryException {
        if (join.isRight()
                || join.isFull()
                || join.isNatural()
                || !join.getUsingColumns().isEmpty()) {
            throw new UnsupportedQueryException(join.toString());
        }
        Names.Source source = names.source(table(join.getFromItem()));
        Value on = null;
        for (Expression one : Optional.ofNullable(join.getOnExpressions()).orElse(List.of())) {
            Value condition = expressions.value(one);
            Value before = on;
            on = before == null ? condition : scope -> Operators.and(before.in(scope), condition.in(scope));
        }
        query.join(source, on, join.isLeft());
    }

    private void select(SelectItem<?> item) throws UnsupportedQueryException {
        Expression expression = item.getExpression();
        if (expression instanceof AllTableColumns all) {
            names.star(all.getTable().getName()).forEach(query::select);
        } else if (expression instanceof AllColumns) {
            names.star("").forEach(query::select);
        } else {
            Alias alias = item.getAlias();
            String name;
            if (alias != null) {
                name = alias.getName();
            } else if (expression instanceof Column column) {
                name = column.getColumnName();
            } else {
                name = "";
            }
            query.select(new Names.Item(RowNames.plain(name), expressions.value(expression)));
        }
    }

    /** An order may name what is selected, or count it. */
    private Value ordered(Expression expression) throws UnsupportedQueryException {
        if (expression instanceof LongValue number
                && number.getValue() >= 1
                && number.getValue() <= query.items().size()) {
            return query.items().get((int) number.getValue() - 1).value();
        }
        if (expression instanceof Column column && column.getTable() == null) {
            for (Names.Item item : query.items()) {
                if (item.name().equalsIgnoreCase(column.getColumnName())) {
                    return item.value();
                }
            }
        }
        return expressions.value(expression);
    }
}
