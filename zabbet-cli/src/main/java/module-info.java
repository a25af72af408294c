/** The zabbet command. */
module dev.zabbet.cli {
    requires static org.jspecify;
    requires dev.zabbet.core;
    requires dev.zabbet.jdbc;
    requires dev.zabbet.files;
    requires dev.zabbet.serve;
    requires dev.zabbet.examples;
    requires info.picocli;
    requires org.apache.commons.csv;
    requires org.eclipse.elk.alg.layered;
    requires org.eclipse.elk.core;
    requires org.eclipse.elk.graph;
    requires org.eclipse.emf.common;
    requires org.eclipse.emf.ecore;
    requires org.jgrapht.core;

    opens dev.zabbet.cli to
            info.picocli;
}
