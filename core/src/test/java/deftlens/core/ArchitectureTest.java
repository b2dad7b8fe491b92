package deftlens.core;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;

@AnalyzeClasses(packages = "deftlens.core", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {

    @ArchTest
    static final ArchRule standsOnTheJdkAndFewLibraries = classes()
            .should()
            .onlyDependOnClassesThat()
            .resideInAnyPackage(
                    "deftlens.core..",
                    "java..",
                    "org.antlr.v4.runtime..",
                    "com.google.re2j..",
                    "com.google.common.collect..");

    @ArchTest
    static final ArchRule doesNoInputOrOutput = noClasses()
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage("java.io..", "java.nio.file..", "java.net..", "java.sql..");

    @ArchTest
    static final ArchRule asksNoClockAndNoSystemZone = noClasses()
            .should()
            .callMethod(java.time.Instant.class, "now")
            .orShould()
            .callMethod(java.time.LocalDate.class, "now")
            .orShould()
            .callMethod(java.time.ZoneId.class, "systemDefault")
            .orShould()
            .callMethod(System.class, "currentTimeMillis")
            .orShould()
            .callMethod(System.class, "nanoTime")
            .orShould()
            .dependOnClassesThat()
            .haveFullyQualifiedName("java.time.Clock");

    @ArchTest
    static final ArchRule roomsHaveNoCircles =
            slices().matching("deftlens.core.(*)..").should().beFreeOfCycles();
}
