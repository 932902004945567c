package org.holtra.service;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import org.junit.jupiter.api.Test;

/** Dependencies point one way: api and kinds to intake and dispatch, those to the journal, and all to the core. */
class ArchitectureTest {

    private static final JavaClasses CLASSES = new ClassFileImporter()
            .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
            .importPackages("org.holtra");

    @Test
    void dependenciesPointOneWay() {
        layeredArchitecture()
                .consideringOnlyDependenciesInLayers()
                .layer("core")
                .definedBy("org.holtra.core..")
                .layer("settings")
                .definedBy("org.holtra.service.settings..")
                .layer("journal")
                .definedBy("org.holtra.service.journal..")
                .layer("registries")
                .definedBy(
                        "org.holtra.service.devices..",
                        "org.holtra.service.credentials..",
                        "org.holtra.service.setups..")
                .layer("access")
                .definedBy("org.holtra.service.access..")
                .layer("dispatch")
                .definedBy("org.holtra.service.dispatch..")
                .layer("intake")
                .definedBy("org.holtra.service.intake..")
                .layer("kinds")
                .definedBy("org.holtra.service.kinds..")
                .layer("api")
                .definedBy("org.holtra.service.api..")
                .layer("ops")
                .definedBy("org.holtra.service.ops..")
                .whereLayer("ops")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("api")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("kinds")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("intake")
                .mayOnlyBeAccessedByLayers("api", "kinds", "ops")
                .whereLayer("dispatch")
                .mayOnlyBeAccessedByLayers("api", "kinds", "intake", "ops")
                .whereLayer("registries")
                .mayOnlyBeAccessedByLayers("api", "kinds", "intake", "dispatch", "ops")
                .whereLayer("journal")
                .mayOnlyBeAccessedByLayers("api", "kinds", "intake", "dispatch", "registries", "ops")
                .check(CLASSES);
    }

    @Test
    void theCoreKnowsNoFrameworkNoDatabaseNoSocketNoFileAndStartsNoThread() {
        noClasses()
                .that()
                .resideInAPackage("org.holtra.core..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage(
                        "org.springframework..",
                        "org.apache.ibatis..",
                        "java.sql..",
                        "javax.sql..",
                        "java.net.http..",
                        "java.nio.file..")
                .orShould()
                .dependOnClassesThat()
                .haveFullyQualifiedName("java.lang.Thread")
                .orShould()
                .dependOnClassesThat()
                .haveFullyQualifiedName("java.net.Socket")
                .orShould()
                .dependOnClassesThat()
                .haveFullyQualifiedName("java.io.File")
                .check(CLASSES);
    }

    @Test
    void nothingOutsideAKindsFolderNamesTheKind() {
        noClasses()
                .that()
                .resideInAPackage("org.holtra..")
                .and()
                .resideOutsideOfPackage("org.holtra.service.kinds.http..")
                .should()
                .dependOnClassesThat()
                .resideInAPackage("org.holtra.service.kinds.http..")
                .check(CLASSES);
    }

    @Test
    void onlyTheJournalAndTheRegistriesSpeakToTheDatabase() {
        noClasses()
                .that()
                .resideInAnyPackage(
                        "org.holtra.service.api..", "org.holtra.service.intake..", "org.holtra.service.kinds..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage("org.apache.ibatis..", "java.sql..", "org.springframework.jdbc..")
                .check(CLASSES);
    }
}
