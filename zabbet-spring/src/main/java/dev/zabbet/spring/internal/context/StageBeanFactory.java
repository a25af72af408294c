package dev.zabbet.spring.internal.context;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import java.util.List;
import org.springframework.beans.factory.config.BeanDefinition;
import org.springframework.beans.factory.support.BeanDefinitionRegistry;
import org.springframework.beans.factory.support.RootBeanDefinition;
import org.springframework.context.ConfigurableApplicationContext;
import org.springframework.test.context.ContextConfigurationAttributes;
import org.springframework.test.context.ContextCustomizer;
import org.springframework.test.context.ContextCustomizerFactory;
import org.springframework.test.context.MergedContextConfiguration;

/**
 * Lets tests have the stage injected. Every context gets the same bean definition, so that no class needs a context of its own
 * for it; it is worked out only where it is asked for.
 */
public final class StageBeanFactory implements ContextCustomizerFactory {
    private static final String NAME = "dev.zabbet.Stage";

    @Override
    public ContextCustomizer createContextCustomizer(
            Class<?> testClass, List<ContextConfigurationAttributes> configAttributes) {
        return new Customizer();
    }

    /** Equal to each other, as the cache of contexts goes by that. */
    private record Customizer() implements ContextCustomizer {

        @Override
        public void customizeContext(ConfigurableApplicationContext context, MergedContextConfiguration configuration) {
            if (context.getBeanFactory() instanceof BeanDefinitionRegistry registry
                    && !registry.containsBeanDefinition(NAME)) {
                RootBeanDefinition stage = new RootBeanDefinition(Stage.class, () -> stage(context));
                stage.setScope(BeanDefinition.SCOPE_PROTOTYPE);
                stage.setDestroyMethodName("");
                registry.registerBeanDefinition(NAME, stage);
            }
        }

        private static Stage stage(ConfigurableApplicationContext context) {
            Class<?> owner = StagesOfClasses.running()
                    .orElseThrow(
                            () -> new ZabbetException(
                                    "A stage is injected into test classes annotated with @Staged only, and none runs on this"
                                            + " thread. Annotate the class, or take the stage as a parameter of the test method."));
            return StagesOfClasses.open(owner, StagesOfClasses.context(owner).orElse(context))
                    .stage();
        }
    }
}
