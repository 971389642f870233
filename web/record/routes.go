// Package record is the pages of what is known of a model: its record with its findings, photos, lines,
// steps and the mat, and the sheets that are printed of them.
package record

import (
	"github.com/labstack/echo/v5"

	"yembo/web/kit"
)

// pages are the handlers of this area.
type pages struct {
	*kit.Site
	smalls smalls
}

// Routes hangs the pages of this area into a group.
func Routes(g *echo.Group, site *kit.Site) {
	s := &pages{Site: site}
	g.GET("/models", s.listModels)
	g.GET("/models/new", s.newModel)
	g.POST("/models", s.createModel)
	g.GET("/models/import", s.newImport)
	g.POST("/models/import", s.lookAtImport)
	g.POST("/models/import/take", s.takeImport)
	g.POST("/models/import/take-records", s.takeBundle)
	g.GET("/models/export", s.exportModels)
	g.GET("/models/compare", s.compareModels)
	g.GET("/models/:id/export-with-photos", s.exportWithPhotos)
	g.GET("/models/:id/export", s.exportModel)
	g.GET("/models/:id", s.showModel)
	g.GET("/models/:id/edit", s.editModel)
	g.POST("/models/:id", s.changeModel)
	g.GET("/models/:id/parts/:list/:item", s.editItem)
	g.POST("/models/:id/parts/:list/:item", s.saveItem)
	g.GET("/models/:id/suspected/:item", s.showSettle)
	g.POST("/models/:id/suspected/:item", s.settle)
	g.POST("/models/lines", s.typeLines)
	g.POST("/models/:id/lines", s.typeLines)
	g.POST("/models/:id/usual-steps", s.usualSteps)
	g.GET("/shorthand", s.showHelp)
	g.GET("/models/:id/bench", s.showBench)
	g.GET("/models/:id/sheet", s.showSheet)
	g.GET("/models/:id/steps", s.showSteps)
	g.POST("/models/:id/steps", s.saveSteps)
	g.POST("/models/:id/loosen", s.setLoosen)
	g.GET("/models/:id/mat", s.showMat)
	g.GET("/models/:id/mat.svg", s.matFile)
	g.GET("/models/:id/arrange", s.showArrange)
	g.POST("/models/:id/arrange", s.saveArrange)
	g.POST("/models/:id/restore", s.restoreModel)
	g.POST("/models/:id/copy", s.copyModel)
	g.GET("/models/:id/findings", s.showFindings)
	g.POST("/models/:id/findings", s.setAside)
	g.POST("/models/:id/findings/add", s.addFinding)
	g.POST("/models/:id/findings/seen", s.allSeen)
	g.POST("/models/:id/reach", s.reached)
	g.GET("/models/:id/photos", s.showPhotos)
	g.POST("/models/:id/photos", s.addPhotos)
	g.GET("/models/:id/photos/:photo", s.photoFile)
	g.GET("/models/:id/photos/:photo/:size", s.photoFile)
	g.POST("/models/:id/photos/:photo", s.removePhoto)
	g.GET("/jobs/:job/photos/:photo", s.jobPhotoFile)
	g.GET("/jobs/:job/photos/:photo/:size", s.jobPhotoFile)
}
