package dev.zabbet.spring;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;

/** The source of some entities that belong together, made by chance: keys, columns, values, relations, inheritance. */
final class EntityModel {
    private static final List<String> TYPES = List.of(
            "String",
            "int",
            "Integer",
            "long",
            "Long",
            "short",
            "boolean",
            "Boolean",
            "double",
            "java.math.BigDecimal",
            "java.time.LocalDate",
            "java.time.LocalDateTime",
            "java.time.Instant",
            "java.time.LocalTime",
            "java.util.UUID",
            "byte[]",
            "char");

    private final Random random;
    private final String home;
    private final Map<String, String> sources = new LinkedHashMap<>();
    private final List<String> entities = new ArrayList<>();
    private final List<String> concrete = new ArrayList<>();

    private EntityModel(long variation) {
        this.random = new Random(variation * 7_919 + 13);
        this.home = "made.v" + variation;
    }

    static EntityModel of(long variation) {
        EntityModel model = new EntityModel(variation);
        model.add("Colour", "public enum Colour { RED, GREEN, BLUE }");
        model.add("Grade", "public record Grade(int steps) {}");
        model.add(
                "GradeColumn",
                "@Converter(autoApply = " + model.random.nextBoolean()
                        + ") public class GradeColumn implements AttributeConverter<Grade, String> {"
                        + " public String convertToDatabaseColumn(Grade g) { return g == null ? null : \"g\" + g.steps(); }"
                        + " public Grade convertToEntityAttribute(String s) {"
                        + " return s == null ? null : new Grade(Integer.parseInt(s.substring(1))); } }");
        model.add("Place", "@Embeddable public class Place { public String street; public int number; }");
        model.add("Span", "@Embeddable public record Span(java.time.LocalDate since, Integer days) {}");
        model.add(
                "Dated",
                "@MappedSuperclass public abstract class Dated { @Version public long revision;"
                        + " @org.hibernate.annotations.CreationTimestamp public java.time.Instant created; }");
        int count = 2 + model.random.nextInt(4);
        for (int i = 0; i < count; i++) {
            model.entity("E" + i);
        }
        return model;
    }

    /** Returns the sources by the full names of their classes. */
    Map<String, String> sources() {
        return sources;
    }

    /** Returns the full names of all entities. */
    List<String> entities() {
        return entities.stream().map(name -> home + "." + name).toList();
    }

    /** Returns the full names of those that objects are made of. */
    List<String> concrete() {
        return concrete.stream().map(name -> home + "." + name).toList();
    }

    private void add(String name, String body) {
        sources.put(
                home + "." + name, "package " + home + "; import jakarta.persistence.*; import java.util.*; " + body);
    }

    private void entity(String name) {
        String strategy =
                List.of("", "", "SINGLE_TABLE", "JOINED", "TABLE_PER_CLASS").get(random.nextInt(5));
        boolean numbered = strategy.equals("TABLE_PER_CLASS");
        String body = key(name, numbered) + properties(name, true) + relations(name);
        String parent = random.nextInt(3) == 0 ? " extends Dated" : "";
        if (strategy.isEmpty()) {
            add(name, "@Entity public class " + name + parent + " { " + body + " }");
            concrete.add(name);
        } else {
            boolean open = random.nextBoolean();
            add(
                    name,
                    "@Entity @Inheritance(strategy = InheritanceType." + strategy + ") public "
                            + (open ? "" : "abstract ") + "class " + name + parent + " { " + body + " }");
            if (open) {
                concrete.add(name);
            }
            for (int i = 0; i <= random.nextInt(2); i++) {
                String below = name + "Sub" + i;
                add(
                        below,
                        "@Entity public class " + below + " extends " + name + " { "
                                + properties(below, !strategy.equals("SINGLE_TABLE"))
                                + relations(below)
                                + " }");
                entities.add(below);
                concrete.add(below);
            }
        }
        entities.add(name);
    }

    private String key(String name, boolean shared) {
        return switch (random.nextInt(5)) {
            case 0 -> "@Id @GeneratedValue(strategy = GenerationType.UUID) public UUID id; ";
            case 1 -> "@Id @Column(length = 20) public String id; ";
            case 2 ->
                shared
                        ? "@Id @GeneratedValue public Long id; "
                        : "@Id @GeneratedValue(strategy = GenerationType.IDENTITY) public Long id; ";
            case 3 ->
                "@Id @GeneratedValue(generator = \"" + name + "_keys\") @SequenceGenerator(name = \"" + name
                        + "_keys\", sequenceName = \"" + name + "_seq\", allocationSize = "
                        + List.of(1, 5, 50).get(random.nextInt(3)) + ") public long id; ";
            default -> "@Id @GeneratedValue public Integer id; ";
        };
    }

    private String properties(String owner, boolean required) {
        StringBuilder text = new StringBuilder();
        int count = 1 + random.nextInt(5);
        for (int i = 0; i < count; i++) {
            text.append(property(owner.toLowerCase(java.util.Locale.ROOT) + "P" + i, required));
        }
        return text.toString();
    }

    private String property(String name, boolean may) {
        String required = random.nextBoolean() && may ? "@Column(nullable = false) " : "";
        return switch (random.nextInt(8)) {
            case 0 ->
                "@Enumerated(EnumType." + (random.nextBoolean() ? "STRING" : "ORDINAL") + ") " + required
                        + "public Colour " + name + "; ";
            case 1 -> "@Convert(converter = GradeColumn.class) " + required + "public Grade " + name + "; ";
            case 2 ->
                "@Embedded @AttributeOverrides({@AttributeOverride(name = \"street\", column = @Column(name = \"" + name
                        + "_street\")), @AttributeOverride(name = \"number\", column = @Column(name = \"" + name
                        + "_number\"))}) public Place " + name + "; ";
            case 3 ->
                "@Embedded @AttributeOverrides({@AttributeOverride(name = \"since\", column = @Column(name = \"" + name
                        + "_since\")), @AttributeOverride(name = \"days\", column = @Column(name = \"" + name
                        + "_days\"))}) public Span " + name + "; ";
            default -> {
                String type = TYPES.get(random.nextInt(TYPES.size()));
                String column;
                if (type.equals("String") && random.nextBoolean()) {
                    column = "@Column(length = " + (3 + random.nextInt(30)) + ", nullable = "
                            + (random.nextBoolean() || !may) + ") ";
                } else if (type.endsWith("BigDecimal")) {
                    column = "@Column(precision = 8, scale = 2) ";
                } else {
                    column = required;
                }
                yield column + "public " + type + " " + name + "; ";
            }
        };
    }

    private String relations(String owner) {
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < random.nextInt(3) && !entities.isEmpty(); i++) {
            String target = entities.get(random.nextInt(entities.size()));
            String name = owner.toLowerCase(java.util.Locale.ROOT) + "To" + i + target;
            text.append(
                    switch (random.nextInt(5)) {
                        case 0 ->
                            "@ManyToOne(optional = " + owner.contains("Sub") + ") public " + target + " " + name + "; ";
                        case 1 ->
                            "@ManyToOne(fetch = FetchType.LAZY) @JoinColumn(name = \"" + name + "_key\") public "
                                    + target + " " + name + "; ";
                        case 2 -> "@OneToOne public " + target + " " + name + "; ";
                        case 3 -> "@ManyToMany public Set<" + target + "> " + name + " = new HashSet<>(); ";
                        default -> "@OneToMany public List<" + target + "> " + name + " = new ArrayList<>(); ";
                    });
        }
        return text.toString();
    }
}
