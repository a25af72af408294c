package dev.zabbet.examples;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import com.sun.source.tree.BindingPatternTree;
import com.sun.source.tree.ClassTree;
import com.sun.source.tree.CompilationUnitTree;
import com.sun.source.tree.ConditionalExpressionTree;
import com.sun.source.tree.ExpressionTree;
import com.sun.source.tree.InstanceOfTree;
import com.sun.source.tree.MethodTree;
import com.sun.source.tree.NewArrayTree;
import com.sun.source.tree.ParenthesizedTree;
import com.sun.source.tree.Tree;
import com.sun.source.tree.TypeCastTree;
import com.sun.source.tree.VariableTree;
import com.sun.source.util.JavacTask;
import com.sun.source.util.SourcePositions;
import com.sun.source.util.TreeScanner;
import com.sun.source.util.Trees;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import javax.lang.model.element.Modifier;
import javax.tools.JavaCompiler;
import javax.tools.StandardJavaFileManager;
import javax.tools.ToolProvider;
import org.junit.jupiter.api.Test;

/** What the code does not do, read from its syntax trees. */
class HabitsTest {
    private static final Path ROOT = Path.of(System.getProperty("zabbet.repository.root"));

    @Test
    void noConditionStandsInACondition() throws IOException {
        assertEquals(List.of(), found(sources(), new TreeScanner<>() {
            @Override
            public Void visitConditionalExpression(ConditionalExpressionTree tree, List<Tree> found) {
                if (isConditional(tree.getTrueExpression()) || isConditional(tree.getFalseExpression())) {
                    found.add(tree);
                }
                return super.visitConditionalExpression(tree, found);
            }
        }));
    }

    /** An array of one element that a lambda writes into says nothing of what it is for; an AtomicLong does. */
    @Test
    void noArrayStandsForAVariable() throws IOException {
        assertEquals(
                List.of(), found(sources().stream().filter(HabitsTest::isMain).toList(), new TreeScanner<>() {
                    @Override
                    public Void visitVariable(VariableTree tree, List<Tree> found) {
                        boolean local = !tree.getModifiers().getFlags().contains(Modifier.STATIC);
                        if (local
                                && tree.getInitializer() instanceof NewArrayTree array
                                && array.getInitializers() != null
                                && array.getInitializers().size() == 1
                                && array.getInitializers().get(0).getKind().asInterface()
                                        == com.sun.source.tree.LiteralTree.class) {
                            found.add(tree);
                        }
                        return super.visitVariable(tree, found);
                    }
                }));
    }

    /**
     * Java 17 does not check that all kinds of a sealed type are thought of where {@code instanceof} tells them apart. Whoever
     * names seven of ten has to name them all, or has the type itself do what differs.
     */
    @Test
    void noKindIsForgottenWhereMostAreToldApart() throws IOException {
        List<Path> main = sources().stream().filter(HabitsTest::isMain).toList();
        Map<String, Set<String>> kinds = new TreeMap<>();
        found(main, new TreeScanner<>() {
            @Override
            public Void visitClass(ClassTree tree, List<Tree> found) {
                if (tree.getModifiers().getFlags().contains(Modifier.SEALED) && tree.getKind() == Tree.Kind.INTERFACE) {
                    kinds.put(tree.getSimpleName().toString(), kindsOf(tree));
                }
                return super.visitClass(tree, found);
            }
        });
        assertTrue(
                kinds.keySet().containsAll(Set.of("Change", "Condition", "Cell", "Setting", "Expr")), kinds.toString());
        assertEquals(List.of(), found(main, new TreeScanner<>() {
            @Override
            public Void visitMethod(MethodTree tree, List<Tree> found) {
                Set<String> named = new TreeSet<>();
                tree.accept(new NamedTypes(), named);
                kinds.forEach((type, all) -> {
                    Set<String> those = new TreeSet<>(all);
                    those.removeIf(kind -> !named.contains(type + "." + kind));
                    if (those.size() * 10 >= all.size() * 7 && those.size() < all.size()) {
                        found.add(tree);
                    }
                });
                return super.visitMethod(tree, found);
            }
        }));
    }

    private static Set<String> kindsOf(ClassTree type) {
        Set<String> kinds = new TreeSet<>();
        for (Tree member : type.getMembers()) {
            if (member instanceof ClassTree kind
                    && kind.getImplementsClause().stream()
                            .anyMatch(clause -> clause.toString().contentEquals(type.getSimpleName()))) {
                kinds.add(kind.getSimpleName().toString());
            }
        }
        return kinds;
    }

    /** Collects the types that a method asks or casts for. */
    private static final class NamedTypes extends TreeScanner<Void, Set<String>> {
        @Override
        public Void visitInstanceOf(InstanceOfTree tree, Set<String> named) {
            named.add((tree.getPattern() instanceof BindingPatternTree pattern
                            ? pattern.getVariable().getType()
                            : tree.getType())
                    .toString());
            return super.visitInstanceOf(tree, named);
        }

        @Override
        public Void visitTypeCast(TypeCastTree tree, Set<String> named) {
            named.add(tree.getType().toString());
            return super.visitTypeCast(tree, named);
        }
    }

    private static boolean isConditional(ExpressionTree expression) {
        ExpressionTree inner = expression;
        while (inner instanceof ParenthesizedTree parenthesized) {
            inner = parenthesized.getExpression();
        }
        return inner instanceof ConditionalExpressionTree;
    }

    private static boolean isMain(Path file) {
        return file.toString().replace('\\', '/').contains("/src/main/");
    }

    private static List<Path> sources() throws IOException {
        List<Path> sources = new ArrayList<>();
        try (Stream<Path> modules = Files.list(ROOT)) {
            for (Path module : modules.filter(
                            path -> path.getFileName().toString().startsWith("zabbet-"))
                    .sorted()
                    .toList()) {
                if (Files.isDirectory(module.resolve("src"))) {
                    try (Stream<Path> files = Files.walk(module.resolve("src"))) {
                        sources.addAll(files.filter(
                                        file -> file.toString().endsWith(".java") && !file.endsWith("module-info.java"))
                                .toList());
                    }
                }
            }
        }
        assertTrue(sources.size() > 600, sources.size() + " files");
        return sources;
    }

    /** Returns where the scanner found something: the file and the line. */
    private static List<String> found(List<Path> files, TreeScanner<Void, List<Tree>> scanner) throws IOException {
        JavaCompiler compiler = ToolProvider.getSystemJavaCompiler();
        List<String> places = new ArrayList<>();
        try (StandardJavaFileManager manager = compiler.getStandardFileManager(null, null, null)) {
            JavacTask task = (JavacTask) compiler.getTask(
                    null,
                    manager,
                    problem -> {},
                    List.of("-proc:none"),
                    null,
                    manager.getJavaFileObjectsFromPaths(files));
            SourcePositions positions = Trees.instance(task).getSourcePositions();
            for (CompilationUnitTree unit : task.parse()) {
                List<Tree> found = new ArrayList<>();
                scanner.scan(unit, found);
                for (Tree tree : found) {
                    places.add(ROOT.relativize(Path.of(unit.getSourceFile().toUri())) + ":"
                            + unit.getLineMap().getLineNumber(positions.getStartPosition(unit, tree)));
                }
            }
        }
        return places;
    }
}
