package dev.zabbet;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The store in memory refuses and follows as a database does: keys, references with all their actions, checks, roles. */
class MemoryConstraintsTest {

    record Parent(long id, String name) {}

    record Child(
            long id,
            @Nullable Long parentId,
            int n,
            @Nullable String tag) {}

    interface Parents {
        Parent insert(Parent parent);

        boolean deleteById(long id);
    }

    interface Children {
        Child insert(Child child);

        Child update(Child child);

        boolean deleteById(long id);

        List<Child> findAll();
    }

    private static Column column(
            String name, Kind kind, boolean nullable, @Nullable String defaultText, Generation generation) {
        DataType type = kind == Kind.TEXT
                ? DataType.sized(Kind.TEXT, "VARCHAR(20)", 20)
                : DataType.precise(Kind.INTEGER, "BIGINT", 64, 0);
        return new Column(name, name, type, nullable, Optional.ofNullable(defaultText), generation);
    }

    private static Schema schema(Reference.Action onDelete, List<UniqueKey> uniques, List<Check> checks) {
        Table parent = new Table(
                "parent",
                "",
                "parent",
                List.of(
                        column("id", Kind.INTEGER, false, null, Generation.NONE),
                        column("name", Kind.TEXT, false, null, Generation.NONE)),
                Optional.of(new UniqueKey("parent_key", List.of("id"))),
                List.of(),
                List.of(),
                List.of(),
                TableNature.PLAIN);
        Table child = new Table(
                "child",
                "",
                "child",
                List.of(
                        column("id", Kind.INTEGER, false, null, Generation.NONE),
                        column("parent_id", Kind.INTEGER, true, "1", Generation.NONE),
                        column("n", Kind.INTEGER, false, null, Generation.NONE),
                        column("tag", Kind.TEXT, true, null, Generation.NONE)),
                Optional.of(new UniqueKey("child_key", List.of("id"))),
                uniques,
                List.of(new Reference(
                        "child_parent",
                        List.of("parent_id"),
                        "parent",
                        List.of("id"),
                        onDelete,
                        Reference.Action.REFUSE,
                        Reference.Match.SIMPLE,
                        Reference.Deferral.NEVER)),
                checks,
                TableNature.PLAIN);
        return new Schema(List.of(parent, child));
    }

    /** Random inserts and deletes against maps that follow the reference by hand. */
    @ParameterizedTest
    @CsvSource({"REFUSE", "CASCADE", "SET_NULL", "SET_DEFAULT"})
    void referencesDoWhatTheirActionSays(Reference.Action action) {
        long variation = Long.getLong("zabbet.variation", System.nanoTime());
        System.out.println("MemoryConstraintsTest: variation " + variation);
        Random random = new Random(variation);
        Stage stage = Memory.stage(schema(action, List.of(), List.of()));
        Parents parents = stage.fake(Parents.class);
        Children children = stage.fake(Children.class);
        Map<Long, String> parentsByHand = new TreeMap<>();
        Map<Long, Child> childrenByHand = new TreeMap<>();
        int refused = 0;
        for (int step = 0; step < 400; step++) {
            long id = 1 + random.nextInt(12);
            String sqlState = "";
            String wanted = "";
            try {
                switch (random.nextInt(4)) {
                    case 0 -> {
                        wanted = parentsByHand.containsKey(id) ? "23505" : "";
                        if (wanted.isEmpty()) {
                            parentsByHand.put(id, "p" + step);
                        }
                        parents.insert(new Parent(id, "p" + step));
                    }
                    case 1, 2 -> {
                        Long parent = random.nextInt(5) == 0 ? null : Long.valueOf(1 + random.nextInt(12));
                        Child child = new Child(id, parent, step, null);
                        if (childrenByHand.containsKey(id)) {
                            wanted = "23505";
                        } else if (parent != null && !parentsByHand.containsKey(parent)) {
                            wanted = "23503";
                        } else {
                            childrenByHand.put(id, child);
                        }
                        children.insert(child);
                    }
                    default -> {
                        wanted = deleteByHand(id, action, parentsByHand, childrenByHand);
                        parents.deleteById(id);
                    }
                }
            } catch (ConstraintException e) {
                sqlState = e.sqlState();
                refused++;
            }
            assertEquals(wanted, sqlState, "step " + step + ", variation " + variation);
            assertEquals(
                    List.copyOf(childrenByHand.values()),
                    children.findAll(),
                    "step " + step + ", variation " + variation);
        }
        assertTrue(refused > 20, refused + " were refused");
        stage.expect("parent").count(parentsByHand.size());
    }

    private static String deleteByHand(
            long id, Reference.Action action, Map<Long, String> parents, Map<Long, Child> children) {
        List<Child> below = children.values().stream()
                .filter(c -> c.parentId() != null && c.parentId() == id)
                .toList();
        if (!parents.containsKey(id)) {
            return "";
        }
        boolean toItself = action == Reference.Action.SET_DEFAULT && id == 1; // the default is the row that goes
        boolean nowhere = action == Reference.Action.SET_DEFAULT && id != 1 && !parents.containsKey(1L);
        if (!below.isEmpty() && (action == Reference.Action.REFUSE || toItself || nowhere)) {
            return "23503";
        }
        parents.remove(id);
        for (Child child : below) {
            switch (action) {
                case CASCADE -> children.remove(child.id());
                case SET_NULL -> children.put(child.id(), new Child(child.id(), null, child.n(), child.tag()));
                default -> children.put(child.id(), new Child(child.id(), 1L, child.n(), child.tag()));
            }
        }
        return "";
    }

    @Test
    void aKeyOfSomeRowsCountsOnlyThose() {
        UniqueKey open = new UniqueKey("open_tag", List.of("tag"), List.of(), Optional.of("n > 0"));
        Stage stage = Memory.stage(schema(Reference.Action.REFUSE, List.of(open), List.of()));
        Children children = stage.fake(Children.class);
        children.insert(new Child(1, null, 0, "a"));
        children.insert(new Child(2, null, 0, "a")); // both outside of the key
        children.insert(new Child(3, null, 1, "a"));
        ConstraintException taken =
                assertThrows(ConstraintException.class, () -> children.insert(new Child(4, null, 1, "a")));
        assertEquals("23505", taken.sqlState());
        assertEquals(Optional.of("open_tag"), taken.constraint());
        children.insert(new Child(5, null, 1, null)); // nulls are distinct
        children.insert(new Child(6, null, 1, null));
        assertThrows(
                ConstraintException.class, () -> children.update(new Child(2, null, 7, "a")), "it moves into the key");
        children.deleteById(3);
        children.update(new Child(2, null, 7, "a"));
        stage.expect("child").where("tag", "a").where("n", 7).count(1);
    }

    @Test
    void nullsMayCountAsEqual() {
        UniqueKey strict = new UniqueKey("tags", List.of("tag"), List.of(), Optional.empty(), false);
        Children children = Memory.stage(schema(Reference.Action.REFUSE, List.of(strict), List.of()))
                .fake(Children.class);
        children.insert(new Child(1, null, 1, null));
        assertEquals(
                "23505",
                assertThrows(ConstraintException.class, () -> children.insert(new Child(2, null, 1, null)))
                        .sqlState());
        children.insert(new Child(3, null, 1, "x"));
    }

    @Test
    void aKeyMayBeAnExpression() {
        UniqueKey lower = new UniqueKey("lower_tag", List.of(), List.of("lower(tag)"), Optional.empty());
        Children children = Memory.stage(schema(Reference.Action.REFUSE, List.of(lower), List.of()))
                .fake(Children.class);
        children.insert(new Child(1, null, 1, "Edelgrat"));
        assertThrows(ConstraintException.class, () -> children.insert(new Child(2, null, 1, "EDELGRAT")));
        children.insert(new Child(2, null, 1, "Windegg"));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = ';',
            value = {
                // the check; values of n and tag that keep it; and that break it
                "CASE WHEN n > 5 THEN tag = 'many' WHEN n < 0 THEN tag = 'none' ELSE tag IS NULL END; 6,many; 6,few",
                "CASE WHEN n > 5 THEN tag = 'many' WHEN n < 0 THEN tag = 'none' ELSE tag IS NULL END; -1,none; -1,many",
                "CASE WHEN n > 5 THEN tag = 'many' WHEN n < 0 THEN tag = 'none' ELSE tag IS NULL END; 0,; 0,none",
                "CASE n WHEN 1 THEN tag = 'one' WHEN 2 THEN tag = 'two' ELSE TRUE END; 2,two; 2,one",
                "CASE n WHEN 1 THEN tag = 'one' WHEN 2 THEN tag = 'two' ELSE TRUE END; 3,one; 1,two",
                "COALESCE(tag, 'x') <> 'x' OR n = 0; 0,; 1,",
                "NULLIF(n, 3) IS NOT NULL; 4,; 3,",
                "upper(tag) = tag; 1,ABC; 1,aBC",
                "trim(tag) = tag; 1,abc; 1,' abc'",
                "substring(tag, 1, 2) = 'ab'; 1,abc; 1,bac",
                "abs(n) < 3; -2,; -3,",
                "mod(n, 2) = 0; 4,; 5,",
                "n + 1 <= 10 AND n - 1 >= 0; 9,; 10,",
                "n * 2 = 8; 4,; 5,",
                "tag || 'c' = 'abc'; 1,ab; 1,abc",
                "n BETWEEN 1 AND 3 OR tag LIKE 'x%'; 9,xy; 9,yx",
                "NOT (n IN (1, 2, 3)); 4,; 2,",
                "(n = 1) = (tag IS NOT NULL); 1,a; 2,a"
            })
    void checksAreEvaluatedAsSqlDoes(String check, String keeps, String breaks) {
        Stage stage = Memory.stage(schema(Reference.Action.REFUSE, List.of(), List.of(new Check("rule", check))));
        Children children = stage.fake(Children.class);
        children.insert(child(1, keeps));
        ConstraintException refusal =
                assertThrows(ConstraintException.class, () -> children.insert(child(2, breaks)), check + ": " + breaks);
        assertEquals("23514", refusal.sqlState());
        assertEquals(Optional.of("rule"), refusal.constraint());
        for (Row made : stage.add(20, "child")) { // invented rows keep it, or this would be refused
            assertTrue(made.has("n"));
        }
    }

    private static Child child(long id, String values) {
        String[] parts = values.strip().split(",", -1);
        String tag = parts[1].isEmpty() ? null : parts[1].replace("'", "");
        return new Child(id, null, Integer.parseInt(parts[0].strip()), tag);
    }

    @Test
    void aRoleIsToldWhatItMayNotDo() {
        Stage stage = Memory.stage(schema(Reference.Action.REFUSE, List.of(), List.of()));
        stage.permits("guest")
                .reads("child", child -> !Long.valueOf(9).equals(child.get("n")))
                .adds("child", child -> "own".equals(child.get("tag")))
                .changes("child", child -> "own".equals(child.get("tag")));
        Row own = stage.add(Factory.forTable("child")
                .with("id", 1)
                .with("n", 1)
                .with("tag", "own")
                .with("parent_id", null));
        stage.add(Factory.forTable("child")
                .with("id", 2)
                .with("n", 9)
                .with("tag", "own")
                .with("parent_id", null));
        Children children = stage.asRole("guest").fake(Children.class);
        assertEquals(1, children.findAll().size(), "the other is not shown");
        assertEquals(2, stage.fake(Children.class).findAll().size(), "without a role both are");

        assertDenied(
                "Role guest may not add this row to child.\nThe row: (id=3, parent_id=null, n=1, tag=others)",
                () -> children.insert(new Child(3, null, 1, "others")));
        children.insert(new Child(4, null, 1, "own"));
        assertDenied(
                "Role guest may not make this of a row of child.\nThe row: (id=1, parent_id=null, n=1, tag=others)",
                () -> children.update(new Child((long) own.get("id"), null, 1, "others")));
        children.update(new Child(1, null, 5, "own"));
        assertDenied("Role guest may not remove rows from child.", () -> children.deleteById(1));
        assertDenied(
                "Role guest may not add rows to parent.",
                () -> stage.asRole("guest").fake(Parents.class).insert(new Parent(1, "x")));
        stage.expect("child").holdsOnly(row("id", 1).with("n", 5), row("id", 2), row("id", 4));
        stage.permits("guest").all("parent");
        stage.asRole("guest").fake(Parents.class).insert(new Parent(1, "x"));
        assertTrue(stage.asRole("guest").fake(Parents.class).deleteById(1));
    }

    private static void assertDenied(String message, org.junit.jupiter.api.function.Executable code) {
        ConstraintException denied = assertThrows(ConstraintException.class, code);
        assertEquals("42501", denied.sqlState());
        assertEquals(message, denied.getMessage());
    }

    /** Rows of a refused load, an act that throws and a rewind leave nothing, whatever came before in it. */
    @Test
    void whatIsRefusedLeavesNothing() {
        Stage stage = Memory.stage(schema(Reference.Action.CASCADE, List.of(), List.of(new Check("few", "n < 5"))));
        stage.add(3, "child");
        List<Row> before = new ArrayList<>(stage.rows("child"));
        for (int at = 0; at < 4; at++) {
            int bad = at;
            assertThrows(
                    ZabbetException.class,
                    () -> stage.add(4, Factory.forTable("child").inTurn("n", 1, bad < 2 ? 9 : 2, bad >= 2 ? 9 : 3)));
            assertEquals(before, stage.rows("child"));
        }
        var point = stage.mark();
        stage.add(5, "child");
        stage.fake(Parents.class).insert(new Parent(77, "late"));
        stage.rewind(point);
        assertEquals(before, stage.rows("child"));
        stage.expect("parent").where("id", 77).empty();
    }
}
