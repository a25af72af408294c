package dev.zabbet.fake;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.schema.Schema;
import java.lang.reflect.Method;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.BiPredicate;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Every word that a finder's name may have, over random rows: what the fake finds is what plain Java finds. */
class FinderNamesTest {
    enum Status {
        REQUESTED,
        CONFIRMED,
        DONE
    }

    record Visit(
            long id,
            int nights,
            Status status,
            @Nullable String note,
            BigDecimal price,
            @Nullable LocalDate arrives,
            boolean breakfast) {}

    /** Finders of one argument or more; the oracle beside each name says which rows are meant. */
    interface Visits {
        List<Visit> findByNights(int nights);

        List<Visit> findByNightsIs(int nights);

        List<Visit> findByNightsEquals(int nights);

        List<Visit> findByNightsNot(int nights);

        List<Visit> findByNightsIn(Collection<Integer> nights);

        List<Visit> findByNightsNotIn(Collection<Integer> nights);

        List<Visit> findByNightsGreaterThan(int nights);

        List<Visit> findByNightsGreaterThanEqual(int nights);

        List<Visit> findByNightsAtLeast(int nights);

        List<Visit> findByNightsFrom(int nights);

        List<Visit> findByNightsAbove(int nights);

        List<Visit> findByNightsLessThan(int nights);

        List<Visit> findByNightsLessThanEqual(int nights);

        List<Visit> findByNightsAtMost(int nights);

        List<Visit> findByNightsUpTo(int nights);

        List<Visit> findByNightsBelow(int nights);

        List<Visit> findByNightsBetween(int least, int most);

        List<Visit> findByArrivesAfter(LocalDate day);

        List<Visit> findByArrivesBefore(LocalDate day);

        List<Visit> findByArrivesIsNull();

        List<Visit> findByArrivesIsNotNull();

        List<Visit> findByBreakfastIsTrue();

        List<Visit> findByBreakfastIsFalse();

        List<Visit> findByNote(@Nullable String note);

        List<Visit> findByNoteIgnoreCase(String note);

        List<Visit> findByNoteLike(String pattern);

        List<Visit> findByNoteNotLike(String pattern);

        List<Visit> findByNoteContaining(String part);

        List<Visit> findByNoteContainingIgnoreCase(String part);

        List<Visit> findByNoteStartingWith(String part);

        List<Visit> findByNoteEndingWith(String part);

        List<Visit> findByNightsAndStatus(int nights, Status status);

        List<Visit> findByNightsOrStatus(int nights, Status status);

        List<Visit> findByNightsOrStatusAndBreakfast(int nights, Status status, boolean breakfast);

        List<Visit> findByPriceGreaterThanAndArrivesIsNotNull(BigDecimal price);
    }

    /** What comes out, in which order and how many. */
    interface Shapes {
        List<Visit> findAll();

        List<Visit> findByNightsOrderByPriceDescIdAsc(int nights);

        List<Visit> findByBreakfastOrderByNightsAscPriceAsc(boolean breakfast);

        List<Visit> findFirst3ByOrderByPriceDesc();

        List<Visit> findTop2ByStatusOrderByIdDesc(Status status);

        Optional<Visit> findFirstByStatusOrderByPriceAscIdAsc(Status status);

        long countByStatus(Status status);

        boolean existsByNights(int nights);

        Set<Integer> findDistinctNightsByStatus(Status status);

        List<BigDecimal> findPriceByNights(int nights);

        Map<Long, Visit> findByStatusOrderById(Status status);

        Stream<Visit> streamByNights(int nights);

        Visit[] findByStatusAndNights(Status status, int nights);

        int deleteByNights(int nights);

        boolean updateNote(long id, @Nullable String note);

        int updateNightsByStatus(int nights, Status status);
    }

    private static final String[] NOTES = {"", "a", "A", "ab", "Abba", "b%", "late arrival", "LATE", "a_b", "ärger"};

    private final long variation = Long.getLong("zabbet.variation", System.nanoTime());
    private final Random random = new Random(variation);
    private Stage stage;
    private List<Visit> stored;

    @BeforeEach
    void storeRandomRows() {
        System.out.println("FinderNamesTest: variation " + variation);
        stage = Memory.stage(Schema.of(Visit.class));
        stored = new ArrayList<>();
        for (int i = 1; i <= 60; i++) {
            Visit visit = new Visit(
                    i,
                    1 + random.nextInt(5),
                    Status.values()[random.nextInt(3)],
                    random.nextInt(5) == 0 ? null : NOTES[random.nextInt(NOTES.length)],
                    BigDecimal.valueOf(random.nextInt(400), 2),
                    random.nextInt(4) == 0 ? null : LocalDate.of(2031, 7, 1).plusDays(random.nextInt(6)),
                    random.nextBoolean());
            stored.add(stage.add(Factory.like(visit)));
        }
        assertEquals(stored.size(), new TreeSet<>(stored.stream().map(Visit::id).toList()).size());
    }

    @Test
    void everyWordMeansWhatPlainJavaMeans() throws Exception {
        Map<String, BiPredicate<Visit, Object[]>> oracle = new LinkedHashMap<>();
        for (String same : List.of("findByNights", "findByNightsIs", "findByNightsEquals")) {
            oracle.put(same, (v, a) -> v.nights() == (int) a[0]);
        }
        oracle.put("findByNightsNot", (v, a) -> v.nights() != (int) a[0]);
        oracle.put("findByNightsIn", (v, a) -> ((Collection<?>) a[0]).contains(v.nights()));
        oracle.put("findByNightsNotIn", (v, a) -> !((Collection<?>) a[0]).contains(v.nights()));
        for (String more : List.of("findByNightsGreaterThan", "findByNightsAbove")) {
            oracle.put(more, (v, a) -> v.nights() > (int) a[0]);
        }
        for (String from : List.of("findByNightsGreaterThanEqual", "findByNightsAtLeast", "findByNightsFrom")) {
            oracle.put(from, (v, a) -> v.nights() >= (int) a[0]);
        }
        for (String less : List.of("findByNightsLessThan", "findByNightsBelow")) {
            oracle.put(less, (v, a) -> v.nights() < (int) a[0]);
        }
        for (String upTo : List.of("findByNightsLessThanEqual", "findByNightsAtMost", "findByNightsUpTo")) {
            oracle.put(upTo, (v, a) -> v.nights() <= (int) a[0]);
        }
        oracle.put("findByNightsBetween", (v, a) -> v.nights() >= (int) a[0] && v.nights() <= (int) a[1]);
        oracle.put(
                "findByArrivesAfter",
                (v, a) -> v.arrives() != null && v.arrives().isAfter((LocalDate) a[0]));
        oracle.put(
                "findByArrivesBefore",
                (v, a) -> v.arrives() != null && v.arrives().isBefore((LocalDate) a[0]));
        oracle.put("findByArrivesIsNull", (v, a) -> v.arrives() == null);
        oracle.put("findByArrivesIsNotNull", (v, a) -> v.arrives() != null);
        oracle.put("findByBreakfastIsTrue", (v, a) -> v.breakfast());
        oracle.put("findByBreakfastIsFalse", (v, a) -> !v.breakfast());
        oracle.put("findByNote", (v, a) -> Objects.equals(v.note(), a[0]));
        oracle.put(
                "findByNoteIgnoreCase", (v, a) -> v.note() != null && v.note().equalsIgnoreCase((String) a[0]));
        oracle.put("findByNoteLike", (v, a) -> v.note() != null && like(v.note(), (String) a[0]));
        oracle.put("findByNoteNotLike", (v, a) -> v.note() != null && !like(v.note(), (String) a[0]));
        oracle.put(
                "findByNoteContaining", (v, a) -> v.note() != null && v.note().contains((String) a[0]));
        oracle.put(
                "findByNoteContainingIgnoreCase",
                (v, a) -> v.note() != null && v.note().toLowerCase().contains(((String) a[0]).toLowerCase()));
        oracle.put(
                "findByNoteStartingWith", (v, a) -> v.note() != null && v.note().startsWith((String) a[0]));
        oracle.put(
                "findByNoteEndingWith", (v, a) -> v.note() != null && v.note().endsWith((String) a[0]));
        oracle.put("findByNightsAndStatus", (v, a) -> v.nights() == (int) a[0] && v.status() == a[1]);
        oracle.put("findByNightsOrStatus", (v, a) -> v.nights() == (int) a[0] || v.status() == a[1]);
        oracle.put(
                "findByNightsOrStatusAndBreakfast",
                (v, a) -> v.nights() == (int) a[0] || (v.status() == a[1] && v.breakfast() == (boolean) a[2]));
        oracle.put(
                "findByPriceGreaterThanAndArrivesIsNotNull",
                (v, a) -> v.price().compareTo((BigDecimal) a[0]) > 0 && v.arrives() != null);
        assertEquals(Visits.class.getDeclaredMethods().length, oracle.size(), "each finder has its oracle");

        Visits visits = stage.fake(Visits.class);
        int found = 0;
        for (Method method : Visits.class.getDeclaredMethods()) {
            for (int i = 0; i < 12; i++) {
                Object[] arguments = Stream.of(method.getParameterTypes())
                        .map(this::argument)
                        .toArray();
                if (method.getName().contains("ike")) {
                    arguments[0] =
                            List.of("a%", "%b", "_b", "%a%", "", "b\\%", "%").get(random.nextInt(7));
                }
                List<Visit> wanted = stored.stream()
                        .filter(visit -> oracle.get(method.getName()).test(visit, arguments))
                        .toList();
                method.setAccessible(true);
                assertEquals(
                        wanted,
                        method.invoke(visits, arguments),
                        () -> method.getName() + List.of(arguments) + ", variation " + variation);
                found += wanted.size();
            }
        }
        assertTrue(found > 1000, found + " rows were found in all");
    }

    private Object argument(Class<?> type) {
        if (type == int.class) {
            return random.nextInt(7);
        }
        if (type == Status.class) {
            return Status.values()[random.nextInt(3)];
        }
        if (type == String.class) {
            return NOTES[random.nextInt(NOTES.length)];
        }
        if (type == BigDecimal.class) {
            return BigDecimal.valueOf(random.nextInt(400), 2);
        }
        if (type == LocalDate.class) {
            return LocalDate.of(2031, 7, 1).plusDays(random.nextInt(6));
        }
        if (type == boolean.class) {
            return random.nextBoolean();
        }
        return List.of(random.nextInt(7), random.nextInt(7));
    }

    /** SQL's LIKE, written anew: recursion over both texts. */
    private static boolean like(String text, String pattern) {
        if (pattern.isEmpty()) {
            return text.isEmpty();
        }
        char first = pattern.charAt(0);
        if (first == '%') {
            return like(text, pattern.substring(1)) || (!text.isEmpty() && like(text.substring(1), pattern));
        }
        int taken = first == '\\' && pattern.length() > 1 ? 2 : 1;
        char wanted = pattern.charAt(taken - 1);
        boolean fits = !text.isEmpty() && ((first == '_' && taken == 1) || text.charAt(0) == wanted);
        return fits && like(text.substring(1), pattern.substring(taken));
    }

    @Test
    void orderLimitAndShapeFollowTheName() {
        Shapes shapes = stage.fake(Shapes.class);
        Comparator<Visit> byPrice = Comparator.comparing(Visit::price);
        Comparator<Visit> byId = Comparator.comparing(Visit::id);
        assertEquals(stored, shapes.findAll());
        for (int nights = 0; nights <= 6; nights++) {
            int n = nights;
            List<Visit> meant = stored.stream().filter(v -> v.nights() == n).toList();
            assertEquals(
                    meant.stream()
                            .sorted(byPrice.reversed().thenComparing(byId))
                            .toList(),
                    shapes.findByNightsOrderByPriceDescIdAsc(n));
            assertEquals(!meant.isEmpty(), shapes.existsByNights(n));
            assertEquals(meant, shapes.streamByNights(n).toList());
            assertEquals(meant.stream().map(Visit::price).toList(), shapes.findPriceByNights(n));
        }
        for (boolean breakfast : new boolean[] {true, false}) {
            List<Visit> sorted = shapes.findByBreakfastOrderByNightsAscPriceAsc(breakfast);
            assertEquals(stored.stream().filter(v -> v.breakfast() == breakfast).count(), sorted.size());
            for (int i = 1; i < sorted.size(); i++) {
                assertTrue(Comparator.comparing(Visit::nights)
                                .thenComparing(byPrice)
                                .compare(sorted.get(i - 1), sorted.get(i))
                        <= 0);
            }
        }
        List<BigDecimal> dearest =
                shapes.findFirst3ByOrderByPriceDesc().stream().map(Visit::price).toList();
        assertEquals(
                stored.stream()
                        .map(Visit::price)
                        .sorted(Comparator.reverseOrder())
                        .limit(3)
                        .toList(),
                dearest);
        for (Status status : Status.values()) {
            List<Visit> meant =
                    stored.stream().filter(v -> v.status() == status).toList();
            assertEquals(meant.size(), shapes.countByStatus(status));
            assertEquals(
                    meant.stream().sorted(byId.reversed()).limit(2).toList(),
                    shapes.findTop2ByStatusOrderByIdDesc(status));
            assertEquals(
                    meant.stream().min(byPrice.thenComparing(byId)),
                    shapes.findFirstByStatusOrderByPriceAscIdAsc(status));
            assertEquals(
                    new TreeSet<>(meant.stream().map(Visit::nights).toList()),
                    new TreeSet<>(shapes.findDistinctNightsByStatus(status)));
            assertEquals(
                    meant.stream().map(Visit::id).toList(),
                    List.copyOf(shapes.findByStatusOrderById(status).keySet()));
            assertEquals(
                    meant.stream().filter(v -> v.nights() == 2).toList(),
                    List.of(shapes.findByStatusAndNights(status, 2)));
        }
    }

    @Test
    void changesByNameTouchTheRowsMeantAndNoOthers() {
        Shapes shapes = stage.fake(Shapes.class);
        Visit first = stored.get(0);
        stage.act(() -> assertTrue(shapes.updateNote(first.id(), "changed")))
                .expect()
                .changed("visit", first.id(), dev.zabbet.expect.Expected.row("note", "changed"))
                .nothingElse();
        long threes = stored.stream().filter(v -> v.nights() == 3).count();
        stage.act(() -> assertEquals(threes, shapes.deleteByNights(3)))
                .expect()
                .counts("visit", 0, 0, (int) threes)
                .nothingElse();
        long done = stored.stream()
                .filter(v -> v.nights() != 3 && v.status() == Status.DONE)
                .count();
        assertEquals(done, shapes.updateNightsByStatus(9, Status.DONE));
        stage.expect("visit").where("nights", 9).count(done);
        stage.expect("visit")
                .where("nights", 9)
                .where("status", dev.zabbet.expect.Expected.otherThan("DONE"))
                .empty();
    }
}
