package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.plan.Recipe;
import dev.zabbet.internal.plan.Setting;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.MethodName;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.type.CheckReturnValue;
import dev.zabbet.type.Property;
import java.util.Collection;
import java.util.List;

/**
 * A factory as far as the rows around its own are concerned: parents that its rows refer to, and rows below them.
 *
 * @param <T> what the factory makes
 */
@CheckReturnValue
abstract sealed class FactoryRelatives<T> permits Factory {
    final Recipe<T> recipe;

    FactoryRelatives(Recipe<T> recipe) {
        this.recipe = recipe;
    }

    /**
     * Gives each row a parent of its own, made by a factory.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param parent the factory that makes parents
     * @return another factory; this one stays as it is
     */
    public Factory<T> ref(Property<? super T, ?> property, Factory<?> parent) {
        return ref(prop(property, "ref(property, parent)").name(), parent);
    }

    /**
     * Gives each row a parent of its own, made by a factory; the column is any of the reference's.
     *
     * @param column any column of the reference
     * @param parent the factory that makes parents
     * @return another factory; this one stays as it is
     */
    public Factory<T> ref(String column, Factory<?> parent) {
        return set(
                Words.notNull(column, "column", "ref"),
                new Setting.Parent(Words.notNull(parent, "parent", "ref").recipe));
    }

    /**
     * Gives the rows these parents in turn.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param parents stored rows, objects or keys; at least one
     * @return another factory; this one stays as it is
     * @throws IllegalArgumentException if there are none
     */
    public Factory<T> ref(Property<? super T, ?> property, Collection<?> parents) {
        return ref(prop(property, "ref(property, parents)").name(), parents);
    }

    /**
     * Gives the rows these parents in turn; the column is any of the reference's.
     *
     * @param column any column of the reference
     * @param parents stored rows, objects or keys; at least one
     * @return another factory; this one stays as it is
     * @throws IllegalArgumentException if there are none
     */
    public Factory<T> ref(String column, Collection<?> parents) {
        Words.notNull(parents, "parents", "ref");
        if (parents.isEmpty()) {
            throw new IllegalArgumentException(
                    "ref(" + column + ", parents): parents is empty; at least one is needed.");
        }
        return set(Words.notNull(column, "column", "ref"), new Setting.Parents(List.copyOf(parents)));
    }

    /**
     * Gives every row this parent: a stored row or object, or the key itself.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param parent a stored row or object, or its key
     * @return another factory; this one stays as it is
     */
    public Factory<T> ref(Property<? super T, ?> property, Object parent) {
        return ref(prop(property, "ref(property, parent)").name(), parent);
    }

    /**
     * Gives every row this parent: a stored row or object, or the key itself. The column is any of the reference's.
     *
     * @param column any column of the reference
     * @param parent a stored row or object, or its key
     * @return another factory; this one stays as it is
     */
    public Factory<T> ref(String column, Object parent) {
        Words.notNull(column, "column", "ref");
        return set(column, new Setting.Parents(List.of(Words.notNull(parent, "parent", "ref"))));
    }

    /**
     * Gives all rows of one call one parent, made by a factory.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @param parent the factory that makes parents
     * @return another factory; this one stays as it is
     */
    public Factory<T> refShared(Property<? super T, ?> property, Factory<?> parent) {
        return refShared(prop(property, "refShared(property, parent)").name(), parent);
    }

    /**
     * Gives all rows of one call one parent, made by a factory; the column is any of the reference's.
     *
     * @param column any column of the reference
     * @param parent the factory that makes parents
     * @return another factory; this one stays as it is
     */
    public Factory<T> refShared(String column, Factory<?> parent) {
        Words.notNull(parent, "parent", "refShared");
        return set(Words.notNull(column, "column", "refShared"), new Setting.SharedParent(parent.recipe));
    }

    /**
     * Gives each row one of the parents that are stored already, each as often as another.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @return another factory; this one stays as it is
     */
    public Factory<T> refStored(Property<? super T, ?> property) {
        return refStored(prop(property, "refStored(property)").name());
    }

    /**
     * Gives each row one of the parents that are stored already, each as often as another. In a bulk that names the parents' table it is
     * one of those that the bulk makes.
     *
     * @param column any column of the reference
     * @return another factory; this one stays as it is
     */
    public Factory<T> refStored(String column) {
        return set(Words.notNull(column, "column", "refStored"), new Setting.StoredParents(false));
    }

    /**
     * Gives each row one of the parents that are stored already, a few of them much more often than most: of a hundred,
     * the first ten get about half of the rows.
     *
     * @param property the property, as a method reference such as {@code Stay::nights}
     * @return another factory; this one stays as it is
     */
    public Factory<T> refStoredSkewed(Property<? super T, ?> property) {
        return refStoredSkewed(prop(property, "refStoredSkewed(property)").name());
    }

    /**
     * Gives each row one of the parents that are stored already, a few of them much more often than most; in a bulk that names the
     * parents' table one of those that the bulk makes.
     *
     * @param column any column of the reference
     * @return another factory; this one stays as it is
     */
    public Factory<T> refStoredSkewed(String column) {
        return set(Words.notNull(column, "column", "refStoredSkewed"), new Setting.StoredParents(true));
    }

    /**
     * Adds rows below each row: {@code huts.children(3, rooms)} makes three rooms in each hut.
     *
     * @param count how many below each, at least 1
     * @param factory what makes the rows
     * @return another factory; this one stays as it is
     * @throws IllegalArgumentException if {@code count} is less than 1
     */
    public Factory<T> children(int count, Factory<?> factory) {
        return children(count, count, factory);
    }

    /**
     * Adds rows below each row, here more and there fewer.
     *
     * @param least the fewest below one, at least 0
     * @param most the most below one, at least 1
     * @param factory what makes the rows
     * @return another factory; this one stays as it is
     * @throws IllegalArgumentException if the bounds are none
     */
    public Factory<T> children(int least, int most, Factory<?> factory) {
        return below(least, most, Words.notNull(factory, "factory", "children").recipe, Recipe.Children.Way.REFERRING);
    }

    /**
     * Adds rows at the other end of a link table: {@code stays.linked(2, guests)} makes two guests for each stay, and the
     * rows that link them.
     *
     * @param count how many for each, at least 1
     * @param factory what makes the rows
     * @return another factory; this one stays as it is
     */
    public Factory<T> linked(int count, Factory<?> factory) {
        return below(count, count, Words.notNull(factory, "factory", "linked").recipe, Recipe.Children.Way.LINKED);
    }

    /**
     * Adds rows of the same table below each row, and below those, through the table's reference to itself.
     *
     * @param depth how many levels below the row, at least 1
     * @param width how many below each, at least 1
     * @return another factory; this one stays as it is
     */
    public Factory<T> tree(int depth, int width) {
        if (depth < 1) {
            throw new IllegalArgumentException("tree(" + depth + ", " + width + "): the depth must be at least 1.");
        }
        return below(width, width, (depth == 1 ? this : tree(depth - 1, width)).recipe, Recipe.Children.Way.TREE);
    }

    private Factory<T> below(int least, int most, Recipe<?> child, Recipe.Children.Way way) {
        Recipe.Children children = new Recipe.Children(least, most, child, way);
        if (least < 0 || most < 1 || least > most) {
            throw new IllegalArgumentException(
                    children.describe() + ": the count must be at least 1, and the bounds in order.");
        }
        return new Factory<>(recipe.with(children));
    }

    final Factory<T> set(String name, Setting setting) {
        return new Factory<>(recipe.with(name, setting));
    }

    final Prop prop(Property<? super T, ?> property, String where) {
        Words.notNull(property, "property", where);
        MethodName name = MethodName.of(property, where);
        TypeShape<T> shape = recipe.shape()
                .orElseThrow(() -> new ZabbetException(
                        "A factory of rows of " + recipe.table() + " knows no properties; name the column as text: \""
                                + Words.snakeCase(name.property()) + "\"."));
        return shape.find(name.method()).orElseGet(() -> shape.require(name.property()));
    }
}
