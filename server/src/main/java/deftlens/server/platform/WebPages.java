package deftlens.server.platform;

import jakarta.servlet.http.HttpServletRequest;
import java.util.Arrays;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.boot.autoconfigure.web.WebProperties;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.io.Resource;
import org.springframework.core.io.ResourceLoader;
import org.springframework.http.CacheControl;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.servlet.config.annotation.ResourceHandlerRegistry;
import org.springframework.web.servlet.config.annotation.ViewControllerRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Serves the interface: its hashed files for ever, its page for every address it knows. */
@Configuration
public class WebPages implements WebMvcConfigurer {

    private static final String[] PAGES = {
        "/",
        "/sign-in",
        "/registers/**",
        "/views/**",
        "/views",
        "/account",
        "/people",
        "/people/**",
        "/organisation",
        "/jobs",
        "/setup",
        "/catalogue",
        "/catalogue/**"
    };

    /** The paths of all that is the interface itself, and holds nothing of anybody's. */
    public static final String[] OPEN = Stream.concat(
                    Arrays.stream(PAGES), Stream.of("/index.html", "/assets/**", "/mark.svg", "/theme.js", "/early.js"))
            .toArray(String[]::new);

    private final WebProperties web;
    private final Optional<Resource> page;

    /**
     * Whether somebody's browser asks for a page, whatever its address: the interface then says what is the matter, in words for
     * people.
     *
     * @param path the path of the request, as it came
     */
    public static boolean isForPage(HttpServletRequest request, String path) {
        String accept = request.getHeader(HttpHeaders.ACCEPT);
        return request.getMethod().equals("GET")
                && accept != null
                && accept.contains(MediaType.TEXT_HTML_VALUE)
                && path.matches("/(?!api(/|$)|actuator(/|$)|/).*");
    }

    WebPages(WebProperties web, ResourceLoader resources) {
        this.web = web;
        this.page = Arrays.stream(web.getResources().getStaticLocations())
                .map(location -> resources.getResource(location + "index.html"))
                .filter(Resource::exists)
                .findFirst();
    }

    /** The page of the interface, for an address where nothing is: it has words for that, and the ways on. */
    Optional<ResponseEntity<Object>> nothingHere(HttpServletRequest request) {
        return page.filter(p -> isForPage(request, request.getRequestURI()))
                .map(p -> ResponseEntity.status(HttpStatus.NOT_FOUND)
                        .contentType(MediaType.TEXT_HTML)
                        .cacheControl(CacheControl.noStore())
                        .body(p));
    }

    @Override
    public void addViewControllers(ViewControllerRegistry registry) {
        for (String page : PAGES) {
            registry.addViewController(page).setViewName("forward:/index.html");
        }
    }

    @Override
    public void addResourceHandlers(ResourceHandlerRegistry registry) {
        registry.addResourceHandler("/assets/**")
                .addResourceLocations(Arrays.stream(web.getResources().getStaticLocations())
                        .map(location -> location + "assets/")
                        .toArray(String[]::new))
                .setCacheControl(
                        CacheControl.maxAge(java.time.Duration.ofDays(365)).immutable());
    }
}
